import { Button, NativeSelect } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { picturesQuery, type Table, type TableProblem, type TableRow } from '../../api/tables';
import { Shape } from '../../ui/Grade';
import { Look } from '../../ui/Look';
import { plainly } from '../../ui/Met';
import { Strip } from '../../ui/Thumb';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import { Alike } from './Alike';
import { fieldName, fields } from './fields';
import type { Edits } from './useEdits';

interface Props {
  table: Table;
  row: TableRow;
  rows: TableRow[] | undefined;
  column: number;
  rest: TableProblem[];
  mayEdit: boolean;
  edits: Edits;
}

/** The cell in focus large, what is wrong with its row, the repairs, and which field its column is. */
export function CellGlass({ table, row, rows, column, rest, mayEdit, edits }: Props) {
  const header = plainly(table.header[column] ?? '');
  const here = row.problems?.filter((p) => p.column === column) ?? [];
  const others = row.problems?.filter((p) => p.column !== column) ?? [];
  return (
    <>
      <h2 className="railhead">{t('tables.cell', { row: row.row, header })}</h2>
      <RowPictures table={table} row={row} />
      <p className="mono wrap">{plainly(row.cells[column] ?? '') || t('tables.cell_empty')}</p>
      {here.map((p) => (
        <Wrong key={p.seq} problem={p} {...{ table, mayEdit, edits }} />
      ))}
      {mayEdit && ambiguous(here).map((name) => <Alike key={name} row={row.row} {...{ table, name, edits }} />)}
      {others.length > 0 && <h3>{t('tables.row_also')}</h3>}
      {others.map((p) => (
        <Wrong key={p.seq} problem={p} header={plainly(table.header[p.column] ?? '')} {...{ table, mayEdit, edits }} />
      ))}
      {mayEdit && (
        <p>
          <Button size="compact-sm" onClick={() => edits.leaveOut([row.row], !row.leftOut)}>
            {t(row.leftOut ? 'tables.take_in' : 'tables.leave_out')}
          </Button>
        </p>
      )}
      <h3>{t('tables.column', { header })}</h3>
      <NativeSelect
        aria-label={t('tables.column_is', { header })}
        disabled={!mayEdit}
        value={table.fields[column] ?? ''}
        onChange={(e) => edits.describe({ fields: assigned(table, column, e.currentTarget.value) })}
        data={choices(table, column)}
      />
      {/^(option|attribute):/.test(table.fields[column] ?? '') && (
        <NativeSelect
          label={t('tables.type')}
          disabled={!mayEdit}
          value={table.types[column] ?? 'text'}
          onChange={(e) => edits.describe({ types: { ...typesOf(table), [column]: e.currentTarget.value as Type } })}
          data={types.map((value) => ({ value, label: t(`tables.type_${value}`) }))}
        />
      )}
      <p className="soft">{t('tables.examples')}</p>
      <ul className="plain mono">
        {examples(rows ?? [], column).map((text) => (
          <li key={text} className="clip">
            {plainly(text)}
          </li>
        ))}
      </ul>
      {rest.length > 0 && (
        <details>
          <summary>{t('tables.unused', { count: rest.length })}</summary>
          <ul className="plain mono">
            {rest.slice(0, 100).map((p) => (
              <li key={p.seq} className="clip">
                {plainly(p.value)}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** The names in a cell that can be several pictures. */
const ambiguous = (problems: TableProblem[]) =>
  problems.flatMap((p) => {
    const data: Record<string, unknown> | undefined = p.kind === 'picture_ambiguous' ? p.why.data : undefined;
    return typeof data?.file === 'string' ? [data.file] : [];
  });

/** The pictures that the row names, the first of them large. */
function RowPictures({ table, row }: { table: Table; row: TableRow }) {
  const shown = useQuery(picturesQuery(table.id, row.row, row.cells)).data?.filter((p) => p.sha);
  const [first, ...others] = shown ?? [];
  if (!first) return null;
  return (
    <>
      <Look sha={first.sha} alt={first.name} />
      {others.length > 0 && <Strip shas={others.flatMap((p) => p.sha ?? [])} />}
    </>
  );
}

interface WrongProps {
  problem: TableProblem;
  header?: string;
  table: Table;
  mayEdit: boolean;
  edits: Edits;
}

function Wrong({ problem: p, header, table, mayEdit, edits }: WrongProps) {
  const alike = table.kinds[p.kind] ?? 0;
  return (
    <div className="notice">
      <Shape grade={p.stops ? 'contested' : 'likely'} /> <b>{header ? `${header}: ` : ''}</b>
      {say(p.why)} <span className="soft">{t(p.stops ? 'tables.stops' : 'tables.look')}</span>
      {mayEdit && p.repair !== undefined && (
        <div className="repairs">
          <span className="mono wrap">→ {plainly(p.repair)}</span>
          <Button size="compact-sm" className="go" onClick={() => edits.repair({ problems: [p.seq] })}>
            {t('tables.use')}
          </Button>
          {alike > 1 && (
            <Button size="compact-sm" onClick={() => edits.repair({ kind: p.kind })}>
              {t('tables.repair_alike', { n: alike })}
            </Button>
          )}
        </div>
      )}
    </div>
  );
}

/** The columns' fields with another one for a column; a field is of one column only. */
function assigned(table: Table, column: number, field: string): Record<string, string> {
  const all = Object.entries(table.fields).filter(([at, f]) => at !== String(column) && f !== field);
  return Object.fromEntries(field ? [...all, [String(column), field]] : all);
}

const types = ['text', 'number', 'yes_no', 'date', 'address', 'list'] as const;
type Type = (typeof types)[number];

const typesOf = (table: Table) => table.types as Record<string, Type>;

function choices(table: Table, column: number) {
  const own = (table.header[column] ?? '').trim().toLowerCase();
  const now = table.fields[column];
  const all = ['', ...fields, ...(own ? [`option:${own}`, `attribute:${own}`] : [])];
  if (now && !all.includes(now)) all.push(now);
  return all.map((value) => ({ value, label: value ? fieldName(value) : t('tables.field_none') }));
}

/** Three cells of a column that hold something. */
const examples = (rows: TableRow[], column: number) =>
  [...new Set(rows.map((r) => r.cells[column] ?? '').filter(Boolean))].slice(0, 3);
