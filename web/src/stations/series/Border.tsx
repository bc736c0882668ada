import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import type { Series } from '../../api/photos';
import { t } from '../../words/words';
import { type Moving, reach } from './moving';

const SHOT = 92;

interface Props {
  series: Series;
  next: Series;
  at: number;
  moving: Moving | undefined;
  onMoving: (m: Moving | undefined) => void;
  onMove: (m: Moving) => void;
}

/** The border between a series and the next: dragged, or moved with the arrows and set with Enter. */
export function Border({ series, next, at, moving, onMoving, onMove }: Props) {
  const from = useRef<number>(undefined);
  const { least, most } = reach(series, next);
  const by = moving?.by ?? 0;
  if (least === most) return null;
  const within = (n: number) => Math.min(most, Math.max(least, n));
  const to = (n: number) => onMoving({ at, by: within(n) });
  const end = (n: number) => {
    from.current = undefined;
    if (n !== 0) onMove({ at, by: n });
    else onMoving(undefined);
  };
  const dragged = (x: number) => within(Math.round((x - (from.current ?? x)) / SHOT));
  const key = (e: KeyboardEvent) => {
    if (e.key === 'ArrowLeft') to(by - 1);
    else if (e.key === 'ArrowRight') to(by + 1);
    else if (e.key === 'Enter') end(by);
    else if (e.key === 'Escape') end(0);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <hr
      className="border"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={t('series.border', { n: at + 1 })}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={by}
      aria-valuetext={t(by < 0 ? 'series.to_next' : 'series.from_next', { count: Math.abs(by) })}
      title={t('series.border_how')}
      onKeyDown={key}
      onBlur={() => moving && end(0)}
      onPointerDown={(e: PointerEvent) => {
        from.current = e.clientX;
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => from.current !== undefined && to(dragged(e.clientX))}
      onPointerUp={(e) => end(dragged(e.clientX))}
      onPointerCancel={() => end(0)}
    />
  );
}
