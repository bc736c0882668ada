import type { QueryClient } from '@tanstack/react-query';

/** What to look at anew when the server says that a thing changed, and how long to wait for more of the same. */
const touched: Record<string, (id: number) => { key: readonly unknown[]; pause: number }[]> = {
  delivery: (id) => [
    { key: ['deliveries'], pause: 300 },
    { key: ['trail'], pause: 1000 },
    { key: ['arrivals', id], pause: 1500 },
  ],
  bench: (id) => [{ key: ['pairing', id], pause: 100 }],
  run: (id) => [
    { key: ['run', id], pause: 100 },
    { key: ['runs'], pause: 300 },
    { key: ['trail'], pause: 300 },
    { key: ['changes'], pause: 1000 },
    { key: ['plan'], pause: 300 },
    { key: ['products'], pause: 2000 },
    { key: ['card'], pause: 1000 },
    { key: ['pairing'], pause: 2000 },
  ],
};

/** Follows the server's words until stopped. The browser connects again by itself; then everything is old. */
export function follow(queries: QueryClient): () => void {
  const waiting = new Map<string, ReturnType<typeof setTimeout>>();
  const source = new EventSource('/api/events');
  let lost = false;
  source.onmessage = (event) => {
    const [kind = '', id = '0'] = String(event.data).split(':');
    for (const { key, pause } of touched[kind]?.(Number(id)) ?? []) {
      const name = JSON.stringify(key);
      if (waiting.has(name)) continue;
      waiting.set(
        name,
        setTimeout(() => {
          waiting.delete(name);
          void queries.invalidateQueries({ queryKey: key });
        }, pause),
      );
    }
  };
  source.onerror = () => {
    lost = true;
  };
  source.onopen = () => {
    if (lost) void queries.invalidateQueries();
    lost = false;
  };
  return () => {
    source.close();
    for (const timer of waiting.values()) clearTimeout(timer);
  };
}
