import { type MouseEvent, memo } from 'react';
import type { Column } from './columns';

export interface RowActs {
  go: (index: number, event: MouseEvent) => void;
  open: (index: number) => void;
  menu: (index: number, event: MouseEvent) => void;
}

interface Props<T> {
  id: string;
  line: T;
  index: number;
  start: number;
  height: number;
  at: boolean;
  picked: boolean | undefined;
  look: string | undefined;
  columns: Column<T>[];
  all: Column<T>[];
  acts: RowActs;
}

function Row<T>({ id, line, index, start, height, at, picked, look, columns, all, acts }: Props<T>) {
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the grid has the keys
    <div
      id={id}
      role="row"
      tabIndex={-1}
      aria-rowindex={index + 2}
      aria-selected={picked ?? at}
      className={`line ${at ? 'at' : ''} ${picked ? 'picked' : ''} ${look ?? ''}`}
      style={{ height, transform: `translateY(${start}px)` }}
      onClick={(e) => acts.go(index, e)}
      onDoubleClick={() => acts.open(index)}
      onContextMenu={(e) => acts.menu(index, e)}
    >
      {cells(line, columns, all)}
    </div>
  );
}

function cells<T>(line: T, columns: Column<T>[], all: Column<T>[]) {
  const out = [];
  for (let i = 0; i < columns.length; i++) {
    const column = columns[i];
    if (!column) continue;
    const span = Math.min(column.span?.(line) ?? 1, columns.length - i);
    out.push(
      <span
        key={column.id}
        role="gridcell"
        aria-colindex={all.indexOf(column) + 1}
        aria-colspan={span > 1 ? span : undefined}
        className={`cell ${column.className ?? ''} ${column.figures ? 'figures' : ''}`}
        style={span > 1 ? { gridColumn: `span ${span}` } : undefined}
      >
        {column.cell(line)}
      </span>,
    );
    i += span - 1;
  }
  return out;
}

/** One line of a board; drawn again only where something of it changed. */
export const BoardRow = memo(Row) as typeof Row;
