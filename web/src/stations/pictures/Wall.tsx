import { useElementSize, useMergedRef } from '@mantine/hooks';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, useEffect, useId, useRef } from 'react';
import type { PictureCard } from '../../api/gallery';
import { type Act, pressed } from '../../ui/acts';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';

interface Props {
  lines: PictureCard[];
  at: number;
  onAt: (n: number, event?: { shift: boolean }) => void;
  onMore: () => void;
  has: (id: number) => boolean;
  toggle: (id: number) => void;
  acts: (p: PictureCard) => Act[];
  autoFocus?: boolean;
}

const TILE = 132;
const HEIGHT = 158;

/** Pictures side by side, as many as the board is wide; virtual, moved through by arrows. */
export function Wall({ lines, at, onAt, onMore, has, toggle, acts, autoFocus }: Props) {
  const scroll = useRef<HTMLDivElement>(null);
  const { ref: sized, width } = useElementSize<HTMLDivElement>();
  const both = useMergedRef(scroll, sized);
  const id = useId();
  const across = Math.max(1, Math.floor((width - 8) / TILE));
  const virtual = useVirtualizer({
    count: Math.ceil(lines.length / across),
    getScrollElement: () => scroll.current,
    estimateSize: () => HEIGHT,
    overscan: 4,
  });
  const row = Math.floor(at / across);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a move scrolls
  useEffect(() => virtual.scrollToIndex(row, { align: 'auto' }), [row, across]);
  useEffect(() => {
    const on = document.activeElement;
    if (autoFocus && (!on || on === document.body || on.closest('.trail')))
      scroll.current?.focus({ preventScroll: true });
  }, [autoFocus]);
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if ((last + 6) * across >= lines.length) onMore();
  }, [last, across, lines.length, onMore]);
  const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 400) / HEIGHT));
  const steps: Record<string, number> = {
    ArrowRight: 1,
    ArrowLeft: -1,
    ArrowDown: across,
    ArrowUp: -across,
    j: across,
    k: -across,
    PageDown: page * across,
    PageUp: -page * across,
    Home: -lines.length,
    End: lines.length,
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.altKey || event.ctrlKey || event.metaKey ? undefined : steps[event.key];
    const line = lines[at];
    if (step !== undefined) onAt(Math.max(0, Math.min(lines.length - 1, at + step)), { shift: event.shiftKey });
    else if (event.key === ' ' && line) toggle(line.id);
    else {
      const act = line && acts(line).find((a) => a.key === pressed(event) && !a.off);
      if (!act || event.repeat) return;
      act.does();
    }
    event.preventDefault();
  };
  return (
    <div
      ref={both}
      className="wall"
      role="listbox"
      aria-label={t('station.pictures')}
      aria-multiselectable
      aria-activedescendant={lines[at] && `${id}-${lines[at].id}`}
      tabIndex={0}
      onKeyDown={onKeyDown}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }} role="presentation">
        {items.map((item) => (
          <div
            key={item.key}
            role="presentation"
            className="wallrow"
            style={{ transform: `translateY(${item.start}px)`, gridTemplateColumns: `repeat(${across}, 1fr)` }}
          >
            {lines.slice(item.index * across, (item.index + 1) * across).map((p, i) => (
              // biome-ignore lint/a11y/useKeyWithClickEvents: the wall has the keys
              <div
                key={p.id}
                id={`${id}-${p.id}`}
                role="option"
                tabIndex={-1}
                aria-selected={has(p.id)}
                className={item.index * across + i === at ? 'tile at' : 'tile'}
                onClick={(e) => {
                  if (e.ctrlKey || e.metaKey) toggle(p.id);
                  onAt(item.index * across + i, { shift: e.shiftKey });
                }}
                onDoubleClick={() => acts(p)[0]?.does()}
              >
                <Thumb sha={p.sha} size={112} />
                <span className="mono clip" title={plainly(p.path)}>
                  {plainly(p.name)}
                </span>
                <span className="soft clip">{where(p)}</span>
              </div>
            ))}
          </div>
        ))}
      </div>
    </div>
  );
}

/** What a tile says of where its picture stands. */
const where = (p: PictureCard) =>
  p.binned
    ? t('pictures.in_bin')
    : p.placeholder
      ? t('pictures.placeholder')
      : p.places > 1
        ? t('pictures.places', { owner: p.owner ?? '', n: p.places - 1 })
        : p.owner || t('pictures.nowhere');
