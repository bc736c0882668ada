import { type Arrival, client, data } from '../../api/client';
import { askHand } from '../../api/hand';
import type { Dropped } from '../../ui/dropped';
import { send, sendingOf } from '../../ui/sending';
import { say } from '../../words/messages';
import { t } from '../../words/words';

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

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
  for (let wait = 200; ; wait = Math.min(2 * wait, 2000)) {
    await pause(wait);
    if (sendingOf(delivery) === 'stopped') throw new Error(stopped());
    const { state } = await data(client.GET('/api/deliveries/{id}', { params: { path: { id: delivery } } }));
    if (state === 'failed' || state === 'stopped') throw new Error(stopped());
    if (state === 'ready') break;
  }
  const params = { path: { id: delivery }, query: { most: 1000 } };
  const lines: Arrival[] = await data(client.GET('/api/deliveries/{id}/arrivals', { params }));
  const wrong = lines.filter((l) => !l.sha).map((l) => `${l.path}: ${l.message ? say(l.message) : l.problem}`);
  return { shas: lines.flatMap((l) => (l.sha ? [l.sha] : [])), wrong };
}
