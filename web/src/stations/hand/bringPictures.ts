import { type Arrival, client, data } from '../../api/client';
import { askHand } from '../../api/hand';
import type { Dropped } from '../../ui/dropped';
import { send } from '../../ui/sending';
import { takenIn } from '../../ui/takenIn';
import { say } from '../../words/messages';
import { t } from '../../words/words';

/** What came of pictures that were sent or fetched: their hashes in the order they came, and what was wrong with the others. */
export interface Brought {
  shas: string[];
  wrong: string[];
}

/** Sends files as a delivery and waits until they are taken in. */
export async function sendPictures(files: Dropped[]): Promise<Brought> {
  return arrived(await send(files), () => t('sending.stopped', { name: files[0]?.file.name ?? '' }));
}

/** Has the server fetch pictures from addresses, as a delivery, and waits until they are taken in. */
export async function fetchPictures(addresses: string[], title: string): Promise<Brought> {
  const { id } = await askHand.fetch(addresses, title);
  return arrived(id, () => t('hand.fetch_stopped'));
}

async function arrived(delivery: number, stopped: () => string): Promise<Brought> {
  await takenIn(delivery, stopped);
  const params = { path: { id: delivery }, query: { most: 1000 } };
  const lines: Arrival[] = await data(client.GET('/api/deliveries/{id}/arrivals', { params }));
  const wrong = lines.filter((l) => !l.sha).map((l) => `${l.path}: ${l.message ? say(l.message) : l.problem}`);
  return { shas: lines.flatMap((l) => (l.sha ? [l.sha] : [])), wrong };
}
