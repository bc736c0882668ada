import { client, data } from '../api/client';
import { sendingOf } from './sending';

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** Waits until a delivery is taken in. Where it is not, or its sending stopped, that is an error, which says what stopped says. */
export async function takenIn(delivery: number, stopped: () => string): Promise<void> {
  for (let wait = 200; ; wait = Math.min(2 * wait, 2000)) {
    await pause(wait);
    if (sendingOf(delivery) === 'stopped') throw new Error(stopped());
    const { state } = await data(client.GET('/api/deliveries/{id}', { params: { path: { id: delivery } } }));
    if (state === 'failed' || state === 'stopped') throw new Error(stopped());
    if (state === 'ready') return;
  }
}
