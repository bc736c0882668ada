import { client, data } from '../../api/client';
import { askHand } from '../../api/hand';
import { t } from '../../words/words';

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** Has the server fetch pictures from addresses, and waits until they are here. It returns the number of their delivery. */
export async function fetched(addresses: string[], title: string): Promise<number> {
  const { id } = await askHand.fetch(addresses, title);
  for (let wait = 200; ; wait = Math.min(2 * wait, 2000)) {
    await pause(wait);
    const { state } = await data(client.GET('/api/deliveries/{id}', { params: { path: { id } } }));
    if (state === 'ready') return id;
    if (state === 'failed' || state === 'stopped') throw new Error(t('pages.fetch_stopped'));
  }
}
