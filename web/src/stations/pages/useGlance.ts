import { useEffect, useRef, useState } from 'react';
import type { Found, Glance } from '../../api/guides';
import { readLines } from '../../api/lines';

export interface Seen {
  page?: Glance;
  pictures: Found[];
  busy: boolean;
  why?: string;
}

const SHOWN_EVERY = 200;

/** Reads a page and looks at all its pictures; they show as their sizes become known. */
export function useGlance(address: string): Seen & { stop: () => void } {
  const [seen, setSeen] = useState<Seen>({ pictures: [], busy: false });
  const stop = useRef(() => {});
  useEffect(() => {
    const ended = new AbortController();
    stop.current = () => ended.abort();
    if (address) void look(address, ended.signal, setSeen);
    else setSeen({ pictures: [], busy: false });
    return () => ended.abort();
  }, [address]);
  return { ...seen, stop: () => stop.current() };
}

async function look(address: string, signal: AbortSignal, show: (s: Seen) => void) {
  let now: Seen = { pictures: [], busy: true };
  let last = 0;
  const tell = (part: Partial<Seen>, always = true) => {
    now = { ...now, ...part };
    if (!always && performance.now() - last < SHOWN_EVERY) return;
    last = performance.now();
    show(now);
  };
  tell({});
  try {
    const answer = await fetch(`/api/pages/glance?${new URLSearchParams({ address })}`, { signal });
    for await (const line of readLines<Glance>(answer)) {
      if (line.address) tell({ page: line });
      if (line.picture) tell({ pictures: [...now.pictures, line.picture] }, false);
      if (line.why) tell({ why: line.why });
    }
    tell({ busy: false });
  } catch (error) {
    tell({ busy: false, why: signal.aborted ? undefined : error instanceof Error ? error.message : String(error) });
  }
}
