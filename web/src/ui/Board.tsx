import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type ReactNode, useEffect, useId, useRef } from 'react';
import { count } from './format';
import './Board.css';

interface Props {
  label: string;
  lines: number;
  /** Height of a line in pixels; all are the same, so that a hundred thousand cost what twenty do. */
  height: number;
  at: number;
  onAt: (line: number) => void;
  head?: ReactNode;
  line: (index: number) => ReactNode;
  lineClass?: (index: number) => string | undefined;
  selected?: (index: number) => boolean;
  onKey?: (key: string, event: KeyboardEvent) => boolean;
  onOpen?: (index: number) => void;
  /** Called near the end, where more can be had. */
  onMore?: () => void;
  columns: string;
  autoFocus?: boolean;
}

/** The lines worked on: virtual, dense, moved through by arrows or j and k. */
export function Board(p: Props) {
  const { onMore, at } = p;
  const scroll = useRef<HTMLDivElement>(null);
  const id = useId();
  const virtual = useVirtualizer({
    count: p.lines,
    getScrollElement: () => scroll.current,
    estimateSize: () => p.height,
    overscan: 24,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a move scrolls
  useEffect(() => {
    if (at >= 0 && at < p.lines) virtual.scrollToIndex(at, { align: 'auto' });
  }, [at]);
  useEffect(() => {
    // Lines that come late must not take the focus from what somebody has gone to meanwhile.
    const at = document.activeElement;
    const free = !at || at === document.body || at.closest('.trail') !== null;
    if (p.autoFocus && free) scroll.current?.focus({ preventScroll: true });
  }, [p.autoFocus]);
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (onMore && last >= p.lines - 30) onMore();
  }, [onMore, last, p.lines]);
  const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 400) / p.height) - 1);
  const steps: Record<string, number> = {
    ArrowDown: 1,
    j: 1,
    ArrowUp: -1,
    k: -1,
    PageDown: page,
    PageUp: -page,
    Home: -p.lines,
    End: p.lines,
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey) return;
    const step = event.altKey ? undefined : steps[event.key];
    if (step !== undefined) p.onAt(Math.max(0, Math.min(p.lines - 1, at + step)));
    else if (p.onKey?.(event.key, event)) {
      // taken
    } else if (event.key === 'Enter' && p.onOpen) p.onOpen(at);
    else return;
    event.preventDefault();
  };
  return (
    <div className="lines" style={{ ['--columns' as string]: p.columns }}>
      {p.head && <div className="line head">{p.head}</div>}
      <div
        ref={scroll}
        className="scroll"
        role="grid"
        tabIndex={0}
        aria-label={`${p.label}, ${count(p.lines)} lines`}
        aria-rowcount={p.lines}
        aria-activedescendant={at >= 0 && at < p.lines ? `${id}-${at}` : undefined}
        aria-multiselectable={p.selected ? true : undefined}
        onKeyDown={onKeyDown}
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the grid has the keys
            <div
              key={item.key}
              id={`${id}-${item.index}`}
              role="row"
              tabIndex={-1}
              aria-rowindex={item.index + 1}
              aria-selected={p.selected ? p.selected(item.index) : item.index === at}
              className={`line ${item.index === at ? 'at' : ''} ${p.selected?.(item.index) ? 'picked' : ''} ${p.lineClass?.(item.index) ?? ''}`}
              style={{ height: p.height, transform: `translateY(${item.start}px)` }}
              onClick={() => {
                p.onAt(item.index);
                scroll.current?.focus({ preventScroll: true });
              }}
              onDoubleClick={() => p.onOpen?.(item.index)}
            >
              {p.line(item.index)}
            </div>
          ))}
        </div>
      </div>
    </div>
  );
}
