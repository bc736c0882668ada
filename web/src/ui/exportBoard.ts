import { csrfHeaders } from '../api/client';
import { refusing } from '../api/shots';
import type { Column } from './columns';
import { save } from './save';

/** What a board shows as rows of texts: its columns that have a text, headed by their names. */
export function rowsOf<T>(lines: T[], columns: Column<T>[]): string[][] {
  const told = columns.flatMap((c) => {
    const text = c.text ?? c.by;
    return text ? [{ name: c.name, text }] : [];
  });
  return [told.map((c) => c.name), ...lines.map((line) => told.map((c) => String(c.text(line) ?? '')))];
}

/** Has the server make a file of rows, and saves it. */
export async function saveRows(name: string, format: 'csv' | 'xlsx', rows: string[][]) {
  const response = await fetch(`/api/sheets?${new URLSearchParams({ name, format })}`, {
    method: 'POST',
    headers: { ...csrfHeaders(), 'Content-Type': 'application/jsonl' },
    body: new Blob(rows.map((row) => `${JSON.stringify(row)}\n`)),
  });
  await refusing(response);
  save(await response.blob(), `${name}.${format}`);
}
