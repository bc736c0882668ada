import { useElementSize, useMergedRef } from '@mantine/hooks';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  type CSSProperties,
  type KeyboardEvent,
  lazy,
  type MouseEvent,
  Suspense,
  useEffect,
  useId,
  useMemo,
  useRef,
  useState,
} from 'react';
import { t } from '../words/words';
import { type Act, pressed } from './acts';
import { BoardHead, HEAD } from './BoardHead';
import { BoardRow } from './BoardRow';
import { type Column, type Columns, useColumns } from './columns';
import { useSettings } from './settings';
import { useSideways } from './useSideways';
import { useStable } from './useStable';
import './Board.css';

const ContextMenu = lazy(() => import('./ContextMenu').then((m) => ({ default: m.ContextMenu })));
const ColumnMenu = lazy(() => import('./ColumnMenu').then((m) => ({ default: m.ColumnMenu })));

interface Props<T> {
  /** What the board's columns are kept under. */
  name: string;
  label: string;
  lines: T[];
  columns: Column<T>[];
  /** How high a line is in pixels where it has room: comfortable, and where the board is narrow. */
  height?: number;
  narrowHeight?: number;
  at: number;
  onAt: (line: number, event?: { shift: boolean; ctrl: boolean }) => void;
  lineClass?: (line: T) => string | undefined;
  selected?: (line: T) => boolean;
  onKey?: (key: string, event: KeyboardEvent) => boolean;
  /** Whether it has the keys before the board itself, as where letters are typed into cells. */
  keysFirst?: boolean;
  /** How wide the lines are at least, in pixels: a board of many columns is scrolled sideways. */
  width?: number;
  /** The column in focus, which is drawn also where it is out of sight. */
  column?: string;
  onOpen?: (index: number) => void;
  /** What a row's menu offers for the line in focus. The keys that are named there do the same. */
  acts?: (line: T) => Act[];
  /** Called near the end, where more can be had. */
  onMore?: () => void;
  /** Fetches what is not here yet, for a file of all lines. */
  onAll?: () => Promise<unknown>;
  /** How many lines there are in all, where more can be had; -1 where nobody knows. */
  total?: number;
  sorted?: string;
  onSort?: (by: string | undefined) => void;
  autoFocus?: boolean;
}

const DENSE = 28;
const NARROW = 520;

/** The lines worked on: virtual, dense, moved through by arrows or j and k. */
export function Board<T>(p: Props<T>) {
  const { onMore, at } = p;
  const scroll = useRef<HTMLDivElement>(null);
  const { ref: sized, width } = useElementSize<HTMLDivElement>();
  const both = useMergedRef(scroll, sized);
  const id = useId();
  const [settings] = useSettings();
  const narrow = width > 0 && width < NARROW;
  const columns = useColumns(p.name, p.columns, narrow);
  const dense = settings.density === 'dense' && !narrow;
  const height = dense ? DENSE : narrow ? (p.narrowHeight ?? p.height ?? 44) : (p.height ?? 44);
  const [place, setPlace] = useState<{ x: number; y: number }>();
  const virtual = useVirtualizer({
    count: p.lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => height,
    overscan: 24,
    paddingStart: HEAD,
    scrollPaddingStart: HEAD,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another height is another measure
  useEffect(() => virtual.measure(), [height]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a move scrolls
  useEffect(() => {
    if (at >= 0 && at < p.lines.length) virtual.scrollToIndex(at, { align: 'auto' });
  }, [at, height]);
  useEffect(() => {
    // Lines that come late must not take the focus from what somebody has gone to meanwhile.
    const at = document.activeElement;
    const free = !at || at === document.body || at.closest('.trail') !== null;
    if (p.autoFocus && free) scroll.current?.focus({ preventScroll: true });
  }, [p.autoFocus]);
  const drawn = useSideways(scroll, columns, width, p.width !== undefined);
  const kept = p.column ? columns.shown.findIndex((c) => c.id === p.column) : -1;
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (onMore && last >= p.lines.length - 30) onMore();
  }, [onMore, last, p.lines.length]);
  const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 400) / height) - 2);
  const steps: Record<string, number> = {
    ArrowDown: 1,
    j: 1,
    ArrowUp: -1,
    k: -1,
    PageDown: page,
    PageUp: -page,
    Home: -p.lines.length,
    End: p.lines.length,
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target !== event.currentTarget) return; // a button of the head has its own keys
    if (p.acts && (event.key === 'ContextMenu' || (event.shiftKey && event.key === 'F10'))) {
      const row = document.getElementById(`${id}-${at}`)?.getBoundingClientRect();
      setPlace({ x: (row?.left ?? 0) + 60, y: row?.bottom ?? 0 });
      event.preventDefault();
      return;
    }
    if (p.keysFirst && p.onKey?.(event.key, event)) {
      // A letter goes on into the field that it has opened.
      if (event.key.length > 1 || event.ctrlKey || event.metaKey) event.preventDefault();
      return;
    }
    const single = event.key.length === 1 && event.key !== ' ' && !event.ctrlKey && !event.metaKey && !event.altKey;
    if (single && settings.keys === false) return;
    const step = event.altKey || event.ctrlKey || event.metaKey ? undefined : steps[event.key];
    if (step !== undefined && (!event.shiftKey || event.key.length > 1)) {
      p.onAt(Math.max(0, Math.min(p.lines.length - 1, at + step)), { shift: event.shiftKey, ctrl: false });
    } else if (p.onKey?.(event.key, event)) {
      // taken
    } else {
      const key = pressed(event);
      const act = acting().find((a) => a.key === key && !a.off);
      if (!act || event.repeat) return;
      act.does();
    }
    event.preventDefault();
  };
  const acting = () => (p.lines[at] !== undefined && p.acts?.(p.lines[at])) || [];
  const go = useStable((index: number, event: MouseEvent) => {
    p.onAt(index, { shift: event.shiftKey, ctrl: event.ctrlKey || event.metaKey });
    scroll.current?.focus({ preventScroll: true });
  });
  const open = useStable((index: number) => p.onOpen?.(index));
  const menu = useStable((index: number, event: MouseEvent) => {
    if (!p.acts) return;
    event.preventDefault();
    p.onAt(index);
    setPlace({ x: event.clientX, y: event.clientY });
  });
  const rowActs = useMemo(() => ({ go, open, menu }), [go, open, menu]);
  const total = p.total ?? p.lines.length;
  return (
    <div
      className={`lines ${dense ? 'dense' : ''} ${narrow ? 'narrow' : ''}`}
      style={{ '--columns': columns.template } as CSSProperties}
    >
      <div
        ref={both}
        id="board"
        className="scroll"
        role="grid"
        tabIndex={0}
        aria-label={t('board.lines', { label: p.label, lines: total < 0 ? p.lines.length : total })}
        aria-rowcount={total < 0 ? -1 : total + 1}
        aria-colcount={p.columns.length}
        aria-activedescendant={at >= 0 && at < p.lines.length ? `${id}-${at}` : undefined}
        aria-multiselectable={p.selected ? true : undefined}
        onKeyDown={onKeyDown}
      >
        <div role="presentation" style={{ height: virtual.getTotalSize(), minWidth: p.width, position: 'relative' }}>
          <BoardHead
            name={p.name}
            columns={columns}
            narrow={narrow}
            sorted={p.sorted}
            onSort={p.onSort}
            drawn={drawn}
          />
          {items.map((item) => {
            const line = p.lines[item.index];
            if (line === undefined) return null;
            return (
              <BoardRow
                key={item.key}
                id={`${id}-${item.index}`}
                line={line}
                index={item.index}
                start={item.start}
                height={height}
                at={item.index === at}
                picked={p.selected?.(line)}
                look={p.lineClass?.(line)}
                columns={columns.shown}
                drawn={drawn}
                kept={kept}
                all={p.columns}
                acts={rowActs}
              />
            );
          })}
        </div>
      </div>
      <Suspense>
        {!narrow && (
          <ColumnMenu columns={columns as Columns<unknown>} label={p.label} lines={p.lines} onAll={p.onAll} />
        )}
        {p.acts && <ContextMenu place={place} acts={place ? acting() : []} onClose={() => setPlace(undefined)} />}
      </Suspense>
    </div>
  );
}
