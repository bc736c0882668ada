import { type MouseEvent, memo } from 'react';
import type { Column } from './columns';
import { type Drawn, isDrawn } from './useSideways';

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
  drawn: Drawn | undefined;
  kept: number;
  acts: RowActs;
}

function Row<T>({ id, line, index, start, height, at, picked, look, columns, all, drawn, kept, acts }: Props<T>) {
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
      {cells({ line, columns, all, drawn, kept })}
    </div>
  );
}

type Cells<T> = Pick<Props<T>, 'line' | 'columns' | 'all' | 'drawn' | 'kept'>;

function cells<T>({ line, columns, all, drawn, kept }: Cells<T>) {
  const out = [];
  for (let i = 0; i < columns.length; i++) {
    const column = columns[i];
    if (!column || !isDrawn(drawn, i, kept)) continue;
    const span = Math.min(column.span?.(line) ?? 1, columns.length - i);
    out.push(
      <span
        key={column.id}
        role="gridcell"
        aria-colindex={all.indexOf(column) + 1}
        aria-colspan={span > 1 ? span : undefined}
        className={`cell ${column.className ?? ''} ${column.figures ? 'figures' : ''}`}
        style={place(i, span, drawn)}
      >
        {column.cell(line)}
      </span>,
    );
    i += span - 1;
  }
  return out;
}

/** Where a cell stands, where that is not behind the one before it. */
function place(at: number, span: number, drawn: Drawn | undefined) {
  if (drawn) return { gridColumn: `${at + 1} / span ${span}` };
  return span > 1 ? { gridColumn: `span ${span}` } : undefined;
}

/** One line of a board; drawn again only where something of it changed. */
export const BoardRow = memo(Row) as typeof Row;
