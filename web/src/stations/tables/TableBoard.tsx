import { type KeyboardEvent, useMemo, useState } from 'react';
import type { Table, TableRow } from '../../api/tables';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { copy } from '../../ui/copy';
import { plainly } from '../../ui/Met';
import { useStable } from '../../ui/useStable';
import { t } from '../../words/words';
import { CellField } from './CellField';
import { fieldName } from './fields';
import type { Edits } from './useEdits';

interface Props {
  table: Table;
  rows: TableRow[];
  total: number;
  at: number;
  column: number;
  mayEdit: boolean;
  edits: Edits;
  onAt: (row: number) => void;
  onColumn: (column: number) => void;
  onMore: () => void;
}

interface Editing {
  row: number;
  text: string;
}

/** The table itself: its cells, what is wrong in them marked, edited where they stand. */
export function TableBoard({ table, rows, total, at, column, mayEdit, edits, onAt, onColumn, onMore }: Props) {
  const [editing, setEditing] = useState<Editing>();
  const row = rows[at];
  const last = Math.max(table.header.length, 1) - 1;
  const end = useStable((text: string | undefined, move: 'down' | 'right' | undefined) => {
    setEditing(undefined);
    if (text !== undefined && row && text !== (row.cells[column] ?? '')) edits.edit(row.row, column, text);
    if (move === 'down') onAt(Math.min(at + 1, rows.length - 1));
    if (move === 'right') onColumn(Math.min(column + 1, last));
    document.getElementById('board')?.focus();
  });
  const here = useStable(onColumn);
  const widths = useMemo(() => widthsOf(table.header, rows.slice(0, LOOKED)), [table.header, rows]);
  const cols = useMemo(
    () => columns({ table, widths, row: row?.row, column, editing, onColumn: here, onEnd: end }),
    [table, widths, row?.row, column, editing, here, end],
  );
  const begin = (text: string) => row && mayEdit && setEditing({ row: row.row, text });
  const paste = async () => {
    const lines = (await navigator.clipboard.readText()).replace(/\r?\n$/, '').split(/\r?\n/);
    edits.editAll(
      lines.flatMap((line, down) => {
        const to = rows[at + down];
        const cells = line.split('\t').slice(0, last + 1 - column);
        return to ? cells.map((text, right) => ({ row: to.row, column: column + right, text })) : [];
      }),
    );
  };
  const onKey = (key: string, event: KeyboardEvent) => {
    if (editing || !row) return false;
    const held = event.ctrlKey || event.metaKey;
    if (key === 'ArrowRight' || (key === 'Tab' && !event.shiftKey && column < last))
      onColumn(Math.min(column + 1, last));
    else if (key === 'ArrowLeft' || (key === 'Tab' && event.shiftKey && column > 0)) onColumn(Math.max(column - 1, 0));
    else if (held && key === 'c') void copy(row.cells[column] ?? '');
    else if (held && key === 'v' && mayEdit) void paste();
    else if (held && key.toLowerCase() === 'z' && mayEdit) edits.undo(event.shiftKey);
    else if (held || event.altKey || !mayEdit) return false;
    else if (key === 'F2') begin(row.cells[column] ?? '');
    else if (key === 'Enter') {
      const repair = row.problems?.find((p) => p.column === column && p.repair !== undefined);
      if (repair) edits.repair({ problems: [repair.seq] });
      else begin(row.cells[column] ?? '');
    } else if (key === 'Delete') edits.edit(row.row, column, '');
    else if (key.length === 1 && key !== ' ') begin('');
    else return false;
    return true;
  };
  return (
    <Board
      name={`table-${table.id}`}
      label={table.name}
      lines={rows}
      total={total}
      height={34}
      narrowHeight={34}
      at={at}
      onAt={onAt}
      onMore={onMore}
      columns={cols}
      lineClass={(r) => `cells ${r.leftOut ? 'faint' : ''}`}
      onKey={onKey}
      keysFirst
      column={`c${column}`}
      width={60 + widths.reduce((sum, w) => sum + w, 0)}
      acts={(r) =>
        mayEdit
          ? [
              { name: t('tables.edit'), key: 'F2', does: () => begin(r.cells[column] ?? '') },
              { name: t('page.copy'), key: 'Ctrl C', does: () => void copy(r.cells[column] ?? '') },
              {
                name: t(r.leftOut ? 'tables.take_in' : 'tables.leave_out'),
                does: () => edits.leaveOut([r.row], !r.leftOut),
              },
            ]
          : [{ name: t('page.copy'), key: 'Ctrl C', does: () => void copy(r.cells[column] ?? '') }]
      }
      autoFocus
    />
  );
}

interface Made {
  table: Table;
  widths: number[];
  row: number | undefined;
  column: number;
  editing: Editing | undefined;
  onColumn: (column: number) => void;
  onEnd: (text: string | undefined, move: 'down' | 'right' | undefined) => void;
}

/** How many rows are looked at to see how wide the columns must be. */
const LOOKED = 200;

/** How many letters the mark of a picture in a cell is wide. */
const PICTURE = 10;

/** The columns' widths in pixels: as wide as what stands in them, within bounds. */
const widthsOf = (header: string[], rows: TableRow[]) =>
  header.map((name, i) => {
    const wide = (r: TableRow) => (r.cells[i] ?? '').length + (r.lying?.includes(i) ? PICTURE : 0);
    const longest = rows.reduce((most, r) => Math.max(most, wide(r)), Math.min(name.length, 14));
    return Math.round(Math.max(72, Math.min(250, longest * 8.3 + 38)));
  });

const columns = ({ table, widths, row, column, editing, onColumn, onEnd }: Made): Column<TableRow>[] => [
  {
    id: 'row',
    name: t('tables.row'),
    quiet: true,
    fixed: true,
    width: '46px',
    figures: true,
    className: 'soft',
    cell: (r) => r.row,
  },
  ...table.header.map((header, i) => ({
    id: `c${i}`,
    name: `${plainly(header)}${table.fields[i] ? ` · ${fieldName(table.fields[i])}` : ''}`,
    fixed: i === 0,
    width: i === table.header.length - 1 ? `minmax(${widths[i]}px, 1fr)` : `${widths[i]}px`,
    cell: (r: TableRow) => (
      <CellField
        text={r.cells[i] ?? ''}
        lies={r.lying?.includes(i) ?? false}
        problems={r.problems?.filter((p) => p.column === i)}
        here={r.row === row && i === column}
        editing={editing?.row === r.row && i === column ? editing.text : undefined}
        onHere={() => onColumn(i)}
        onEnd={onEnd}
      />
    ),
  })),
];
