import { askTable, foundTables } from '../../api/tables';
import { type Dropped, readChosen } from '../../ui/dropped';
import { send, sendingOf } from '../../ui/sending';
import { t } from '../../words/words';

const isTable = (d: Dropped) => /\.(csv|tsv|txt|xlsx|xlsm|ods)$/i.test(d.file.name);

/** A file up to so many bytes goes in one request; a larger one in pieces, so that it can go on where it ended. */
const ONE_PIECE = 8 * 1024 * 1024;

/** Sends tables, and what came with them as the pictures of each; the number of the first table, or of none. */
export async function bringTables(dropped: Dropped[]): Promise<number> {
  const tables = dropped.filter(isTable);
  const rest = dropped.filter((d) => !isTable(d));
  const ids: number[] = [];
  for (const d of tables) ids.push(d.file.size > ONE_PIECE ? await inPieces(d) : (await askTable.send(d.file)).id);
  if (rest.length > 0) await attachFiles(ids, rest);
  return ids[0] ?? 0;
}

const pause = () => new Promise((done) => setTimeout(done, 400));

/** Sends a large table by the protocol of uploads, and waits until it is taken in hand. */
async function inPieces(d: Dropped): Promise<number> {
  const delivery = await send([d], undefined, { lists: true });
  for (;;) {
    await pause();
    if (sendingOf(delivery) === 'stopped') throw new Error(t('sending.stopped', { name: d.file.name }));
    const { found, over } = await foundTables(delivery);
    if (found) return found;
    if (over) throw new Error(t('sending.no_table', { name: d.file.name }));
  }
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
