import type { QueryClient } from '@tanstack/react-query';

/** What to look at again when the server says that a thing changed, and how long to wait for more of the same. */
const touched: Record<string, (id: number) => { key: readonly unknown[]; pause: number }[]> = {
  delivery: (id) => [
    { key: ['deliveries'], pause: 300 },
    { key: ['trail'], pause: 1000 },
    { key: ['arrivals', id], pause: 1500 },
  ],
  job: () => [
    { key: ['jobs'], pause: 300 },
    { key: ['notices'], pause: 300 },
  ],
  table: (id) => [
    { key: ['table', id], pause: 100 },
    { key: ['tables'], pause: 300 },
  ],
  bench: (id) => [{ key: ['pairing', id], pause: 100 }],
  run: (id) => [
    { key: ['run', id], pause: 100 },
    { key: ['runs'], pause: 300 },
    { key: ['trail'], pause: 300 },
    { key: ['changes'], pause: 1000 },
    { key: ['plan'], pause: 300 },
  ],
  pictures: () => [
    { key: ['products'], pause: 2000 },
    { key: ['card'], pause: 1000 },
    { key: ['pictured'], pause: 1000 },
    { key: ['pairing'], pause: 2000 },
    { key: ['byOwner'], pause: 2000 },
  ],
  channel: () => [
    { key: ['channels'], pause: 300 },
    { key: ['trail'], pause: 300 },
  ],
  assets: () => [
    { key: ['gallery'], pause: 1000 },
    { key: ['tidy'], pause: 2000 },
  ],
  catalogue: () => [
    { key: ['pairing'], pause: 300 },
    { key: ['trial'], pause: 1000 },
    { key: ['products'], pause: 1000 },
    { key: ['categories'], pause: 1000 },
    { key: ['pictured'], pause: 1000 },
    { key: ['card'], pause: 1000 },
  ],
};

/**
 * Follows the server's events until stopped. A browser opens few connections to one address, so of all the pages
 * open one listens and tells the others; when it closes, another takes over. Where the browser has no locks (an
 * address without https) each page listens for itself.
 */
export function follow(queries: QueryClient): () => void {
  const waiting = new Map<string, ReturnType<typeof setTimeout>>();
  const hear = (word: string) => {
    if (word === 'all') {
      void queries.invalidateQueries();
      return;
    }
    const [kind = '', id = '0'] = word.split(':');
    for (const { key, pause } of touched[kind]?.(Number(id)) ?? []) {
      const name = JSON.stringify(key);
      if (waiting.has(name)) continue;
      // What is being asked is not broken off: the answer may be large. It is asked once more when it is here, as it may
      // have been given before the change.
      const look = () => {
        if (queries.isFetching({ queryKey: key })) {
          waiting.set(name, setTimeout(look, pause));
          return;
        }
        waiting.delete(name);
        void queries.invalidateQueries({ queryKey: key });
      };
      waiting.set(name, setTimeout(look, pause));
    }
  };
  const others = new BroadcastChannel('ambrosa-events');
  others.onmessage = (event) => hear(String(event.data));
  const ended = new AbortController();
  const listen = () => {
    const stop = listenToServer((word) => {
      hear(word);
      others.postMessage(word);
    });
    return new Promise<void>((done) => {
      const end = () => {
        stop();
        done();
      };
      ended.signal.addEventListener('abort', end);
      window.addEventListener('pagehide', end, { once: true });
    });
  };
  if (navigator.locks) {
    navigator.locks.request('ambrosa-events', { signal: ended.signal }, listen).catch(() => {});
  } else {
    void listen();
  }
  return () => {
    ended.abort();
    others.close();
    for (const timer of waiting.values()) clearTimeout(timer);
  };
}

/** The browser connects again by itself; after that everything may be old. */
function listenToServer(tell: (word: string) => void): () => void {
  let lost = false;
  let source: EventSource;
  let retry: ReturnType<typeof setTimeout> | undefined;
  const listen = () => {
    source = new EventSource('/api/events');
    source.onmessage = (event) => tell(String(event.data));
    source.onerror = () => {
      lost = true;
      // After an answer that is an error, as a proxy gives one, the browser does not try again.
      if (source.readyState === EventSource.CLOSED) retry = setTimeout(listen, 3000);
    };
    source.onopen = () => {
      if (lost) tell('all');
      lost = false;
    };
  };
  listen();
  return () => {
    clearTimeout(retry);
    source.close();
  };
}
