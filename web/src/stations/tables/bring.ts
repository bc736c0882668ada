import { askTable } from '../../api/tables';
import { type Dropped, readChosen } from '../gather/dropped';
import { send } from '../gather/sending';

const isTable = (d: Dropped) => /\.(csv|tsv|txt|xlsx|xlsm|ods)$/i.test(d.file.name);

/** Sends tables, and what came with them as the pictures of each; the number of the first table, or of none. */
export async function bringTables(dropped: Dropped[]): Promise<number> {
  const tables = dropped.filter(isTable);
  const rest = dropped.filter((d) => !isTable(d));
  const ids: number[] = [];
  for (const d of tables) ids.push((await askTable.send(d.file)).id);
  if (rest.length > 0) await attachFiles(ids, rest);
  return ids[0] ?? 0;
}

/** Sends files as a delivery that belongs to some tables. */
export async function attachFiles(tables: number[], files: Dropped[]) {
  const delivery = await send(files);
  for (const id of tables) await askTable.attach(id, delivery);
}

export const chosen = (input: HTMLInputElement) => {
  const files = readChosen(input.files ?? new DataTransfer().files);
  input.value = '';
  return files;
};
