import { useSyncExternalStore } from 'react';
import * as tus from 'tus-js-client';
import { client, csrfHeaders, data, type Schemas } from '../api/client';
import { askDelivery } from '../api/deliveries';
import { t } from '../words/words';
import { type Dropped, titleOf } from './dropped';

/** A delivery on its way from this browser. It lives outside the screens, so walking about doesn't end it. */
export interface Sending {
  delivery: number;
  title: string;
  files: number;
  sent: number;
  bytes: number;
  sentBytes: number;
  failed: { path: string; why: string }[];
  state: 'sending' | 'stopped' | 'sent';
}

/** Pieces must fit what the server holds in memory for one request. */
const pieceBytes = 8 * 1024 * 1024;
/** Files on their way side by side. */
const lanes = 5;

let sending: Sending | null = null;
let stop = () => {};
const watchers = new Set<() => void>();

function change(next: Sending | null) {
  sending = next;
  for (const tell of watchers) tell();
}

export const useSending = () =>
  useSyncExternalStore(
    (tell) => {
      watchers.add(tell);
      return () => watchers.delete(tell);
    },
    () => sending,
  );

/** Whether a delivery's files are on their way, sent, or stopped. */
export const sendingOf = (delivery: number) => (sending?.delivery === delivery ? sending.state : 'sent');
export const stopSending = () => stop();
export const dismissSending = () => change(null);

window.addEventListener('beforeunload', (event) => {
  if (sending?.state === 'sending') event.preventDefault();
});

const UPLOADS = 1000;

/** Sends what was dropped: into a new delivery, or into one that is still open, going on where it ended. */
export async function send(
  dropped: Dropped[],
  into?: { id: number; title: string },
  of: { lists?: boolean; source?: number } = {},
): Promise<number> {
  if (sending?.state === 'sending') throw new Error(t('sending.busy'));
  const title = into?.title ?? titleOf(dropped);
  const delivery = into?.id ?? (await data(client.POST('/api/deliveries', { body: { title, ...of } }))).id;
  const there = new Map<string, { id: string; bytes: number; received: number }>();
  if (into) {
    for (let after: string | undefined = ''; after !== undefined; ) {
      const params = { path: { id: delivery }, query: { after, most: UPLOADS } };
      const uploads: Schemas['Upload'][] = await data(client.GET('/api/deliveries/{id}/uploads', { params }));
      for (const u of uploads) there.set(u.path, u);
      after = uploads.length < UPLOADS ? undefined : uploads.at(-1)?.id;
    }
  }
  let now: Sending = {
    delivery,
    title,
    files: dropped.length,
    sent: 0,
    bytes: dropped.reduce((n, d) => n + d.file.size, 0),
    sentBytes: 0,
    failed: [],
    state: 'sending',
  };
  change(now);
  const uploads = new Set<tus.Upload>();
  let stopped = false;
  stop = () => {
    stopped = true;
    for (const u of uploads) void u.abort();
    change({ ...now, state: 'stopped' });
  };
  let last = 0;
  const update = (part: Partial<Sending>, force = false) => {
    now = { ...now, ...part };
    if (!stopped && (force || performance.now() - last > 100)) {
      last = performance.now();
      change(now);
    }
  };
  const one = (d: Dropped) =>
    new Promise<void>((done) => {
      const before = there.get(d.path);
      const partly = before && before.bytes === d.file.size ? before : undefined;
      if (partly && partly.received === partly.bytes) {
        update({ sent: now.sent + 1, sentBytes: now.sentBytes + d.file.size });
        done();
        return;
      }
      let counted = 0;
      const upload = new tus.Upload(d.file, {
        endpoint: '/api/uploads/',
        uploadUrl: partly ? `/api/uploads/${partly.id}` : undefined,
        chunkSize: pieceBytes,
        uploadDataDuringCreation: true,
        storeFingerprintForResuming: false,
        retryDelays: [0, 500, 1000, 2000, 4000, 8000, 16000, 30000],
        metadata: { delivery: String(delivery), path: d.path },
        headers: csrfHeaders(),
        onProgress: (bytes) => {
          update({ sentBytes: now.sentBytes + bytes - counted });
          counted = bytes;
        },
        onSuccess: () => {
          uploads.delete(upload);
          update({ sent: now.sent + 1, sentBytes: now.sentBytes + d.file.size - counted });
          done();
        },
        onError: (error) => {
          uploads.delete(upload);
          update({ failed: [...now.failed, { path: d.path, why: reason(error) }] }, true);
          done();
        },
      });
      uploads.add(upload);
      upload.start();
    });
  const queue = dropped[Symbol.iterator]();
  const lane = async () => {
    for (const d of queue) {
      if (stopped) return;
      await one(d);
    }
  };
  void Promise.all(Array.from({ length: lanes }, lane)).then(async () => {
    if (stopped) return;
    if (now.failed.length === 0) {
      await askDelivery.close(delivery, false);
      change({ ...now, state: 'sent' });
      setTimeout(() => sending?.delivery === delivery && sending.state === 'sent' && change(null), 1500);
    } else {
      change({ ...now, state: 'stopped' });
    }
  });
  return delivery;
}

function reason(error: Error | tus.DetailedError): string {
  const status = 'originalResponse' in error ? error.originalResponse?.getStatus() : undefined;
  if (!status) return t('sending.lost');
  const why = ('originalResponse' in error && error.originalResponse?.getBody()) || '';
  return t('sending.refused', { status, why });
}
