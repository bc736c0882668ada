import { type PointerEvent, useRef } from 'react';
import type { Column, Columns } from './columns';
import { type Drawn, isDrawn } from './useSideways';
import './BoardHead.css';

/** How high the head is in pixels. */
export const HEAD = 28;

interface Props<T> {
  name: string;
  columns: Columns<T>;
  narrow: boolean;
  drawn: Drawn | undefined;
  sorted?: string;
  onSort?: (by: string | undefined) => void;
}

/** The names of a board's columns: they sort, are made wider and hidden. */
export function BoardHead<T>({ columns, narrow, sorted, onSort, drawn }: Props<T>) {
  return (
    <div role="row" aria-rowindex={1} className="line head">
      {columns.shown.map(
        (c, i) =>
          isDrawn(drawn, i, -1) && (
            <span
              key={c.id}
              style={drawn && { gridColumn: i + 1 }}
              role="columnheader"
              aria-colindex={columns.all.indexOf(c) + 1}
              aria-sort={c.by && onSort ? order(sorted, c.id) : undefined}
              className={`cell ${c.figures ? 'figures' : ''}`}
            >
              {c.by && onSort ? (
                <button type="button" tabIndex={-1} className="sort" onClick={() => onSort(next(sorted, c.id))}>
                  {c.name} {arrow(sorted, c.id)}
                </button>
              ) : (
                <span className={c.quiet ? 'unseen' : 'clip'}>{c.name}</span>
              )}
              {!narrow && !c.fixed && <Handle column={c} columns={columns} />}
            </span>
          ),
      )}
    </div>
  );
}

/** Dragged, it makes a column wider or narrower; a double click brings back its first width. */
function Handle<T>({ column, columns }: { column: Column<T>; columns: Columns<T> }) {
  const from = useRef<{ x: number; width: number }>(undefined);
  const width = (event: PointerEvent) =>
    from.current ? Math.max(36, Math.round(from.current.width + event.clientX - from.current.x)) : 0;
  return (
    <span
      className="handle"
      aria-hidden
      onPointerDown={(e) => {
        from.current = { x: e.clientX, width: e.currentTarget.parentElement?.offsetWidth ?? 80 };
        e.currentTarget.setPointerCapture(e.pointerId);
        e.preventDefault();
      }}
      onPointerUp={(e) => {
        const wanted = width(e);
        from.current = undefined;
        if (wanted) columns.set({ widths: { [column.id]: wanted } });
      }}
      onDoubleClick={() => columns.set({ widths: { [column.id]: null } })}
    />
  );
}

const order = (sorted: string | undefined, id: string) =>
  sorted === id ? 'ascending' : sorted === `-${id}` ? 'descending' : 'none';
const arrow = (sorted: string | undefined, id: string) => (sorted === id ? '▴' : sorted === `-${id}` ? '▾' : '');
const next = (sorted: string | undefined, id: string) =>
  sorted === id ? `-${id}` : sorted === `-${id}` ? undefined : id;
