import { Button, Modal } from '@mantine/core';
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState, type WheelEvent } from 'react';
import { type Line, type Owner, pictureURL } from '../../api/client';
import { FileName } from '../../ui/FileName';
import { baseName, bytes } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';
import './Compare.css';

interface Props {
  lines: Line[];
  at: number;
  owners: Map<number, Owner>;
  onAt: (at: number) => void;
  onKey: (key: string, event: KeyboardEvent) => boolean;
  onClose: () => void;
}

interface View {
  zoom: number;
  x: number;
  y: number;
}

const whole: View = { zoom: 1, x: 0, y: 0 };

/** A line's picture beside those that its owner has and those of who else it may be meant for: at one scale, moved together. */
export function Compare({ lines, at, owners, onAt, onKey, onClose }: Props) {
  const line = lines[at];
  const [view, setView] = useState(whole);
  const [flick, setFlick] = useState(false);
  const from = useRef<{ x: number; y: number }>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another line begins whole
  useEffect(() => {
    setView(whole);
    setFlick(false);
  }, [line?.id]);
  if (!line) return null;
  const owner = owners.get(line.owner ?? 0);
  const others = [...new Set(line.candidates?.map((c) => c.owner))].filter((id) => id !== line.owner);
  const beside = [
    ...(owner?.now ?? []).slice(0, 3).map((sha, i) => ({ sha, of: owner, place: i + 1 })),
    ...others.slice(0, 3).map((id) => ({ sha: owners.get(id)?.now[0], of: owners.get(id), place: 1 })),
  ];
  const zoomed = (by: number) => setView((v) => ({ ...v, zoom: Math.min(8, Math.max(1, v.zoom * by)) }));
  /** Whether a key did something here. */
  const looked = (key: string): boolean => {
    if (key === 'ArrowRight' || key === 'ArrowDown') onAt(Math.min(lines.length - 1, at + 1));
    else if (key === 'ArrowLeft' || key === 'ArrowUp') onAt(Math.max(0, at - 1));
    else if (key === '+') zoomed(1.5);
    else if (key === '-') zoomed(1 / 1.5);
    else if (key === '0') setView(whole);
    else if (key === ' ') setFlick((f) => !f);
    else return false;
    return true;
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLButtonElement && (event.key === 'Enter' || event.key === ' ')) return;
    if ((event.altKey || !looked(event.key)) && !onKey(event.key, event)) return;
    event.preventDefault();
  };
  const move = {
    onPointerDown: (e: PointerEvent) => {
      from.current = { x: e.clientX - view.x, y: e.clientY - view.y };
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: PointerEvent) => {
      const start = from.current;
      if (start) setView((v) => ({ ...v, x: e.clientX - start.x, y: e.clientY - start.y }));
    },
    onPointerUp: () => {
      from.current = undefined;
    },
    onWheel: (e: WheelEvent) => zoomed(e.deltaY < 0 ? 1.15 : 1 / 1.15),
  };
  const first = beside.find((b) => b.sha);
  return (
    <Modal
      opened
      fullScreen
      onClose={onClose}
      closeButtonProps={{ 'aria-label': t('page.close') }}
      title={t('compare.title', { at: at + 1, of: lines.length })}
    >
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it has the keys */}
      {/* biome-ignore lint/a11y/noNoninteractiveElementInteractions: it has the keys */}
      <section className="compare" aria-label={t('compare.name')} tabIndex={0} data-autofocus onKeyDown={onKeyDown}>
        <header className="row">
          <Grade grade={line.aside ? 'ignored' : line.grade} word checked={line.kinds?.includes('checked')} />
          <FileName
            name={baseName(line.path)}
            spans={line.spans}
            from={line.path.length - baseName(line.path).length}
          />
          <span className="soft grow clip">{sayAll(line.doubt) || sayAll(line.why)}</span>
          <Button size="compact-sm" onClick={() => zoomed(1 / 1.5)} aria-label={t('compare.smaller')}>
            −
          </Button>
          <Button size="compact-sm" onClick={() => zoomed(1.5)} aria-label={t('compare.larger')}>
            +
          </Button>
          <Button size="compact-sm" onClick={() => setFlick((f) => !f)} aria-pressed={flick} disabled={!first}>
            {t('compare.flicker')}
          </Button>
        </header>
        <div className="panes" {...move}>
          <Pane
            sha={flick ? first?.sha : line.sha}
            view={view}
            title={flick ? (first?.of?.sku ?? '') : t('compare.this')}
            facts={[`${line.width} × ${line.height}`, bytes(line.bytes), line.colour]}
          />
          {beside.map((b, i) => (
            <Pane
              // biome-ignore lint/suspicious/noArrayIndexKey: a place beside it is what it is
              key={i}
              sha={b.sha}
              view={view}
              title={b.of?.sku || b.of?.label || ''}
              facts={[
                b.of?.label,
                b.of?.barcode,
                b.of?.id === line.owner ? t('pair.at', { place: b.place }) : t('compare.other'),
              ]}
            />
          ))}
        </div>
        <p className="soft">{t('compare.help')}</p>
      </section>
    </Modal>
  );
}

interface PaneProps {
  sha?: string;
  view: View;
  title: string;
  facts: (string | undefined)[];
}

function Pane({ sha, view, title, facts }: PaneProps) {
  return (
    <figure>
      <div className="pane">
        {sha ? (
          <img
            src={pictureURL(sha, view.zoom > 1 ? 'original' : 480)}
            alt={title}
            draggable={false}
            style={{ transform: `translate(${view.x}px, ${view.y}px) scale(${view.zoom})` }}
          />
        ) : (
          <span className="soft">{t('look.none')}</span>
        )}
      </div>
      <figcaption>
        <b className="mono">{title}</b> <span className="soft">{facts.filter(Boolean).join(' · ')}</span>
      </figcaption>
    </figure>
  );
}
