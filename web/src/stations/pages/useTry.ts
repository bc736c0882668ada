import { useEffect, useRef, useState } from 'react';
import { csrfHeaders } from '../../api/client';
import type { Guide, Tried } from '../../api/guides';
import { readLines } from '../../api/lines';

export interface Trial {
  listing?: Tried;
  items: Tried[];
  busy: boolean;
  why?: string;
}

/** Tries a guide on its first items, or on one at an address; what it finds shows as it comes. */
export function useTry() {
  const [trial, setTrial] = useState<Trial>();
  const ended = useRef(new AbortController());
  useEffect(() => () => ended.current.abort(), []);
  const run = async (guide: Guide, items: number, address = '') => {
    ended.current.abort();
    ended.current = new AbortController();
    const { signal } = ended.current;
    let now: Trial = { items: [], busy: true };
    const tell = (part: Partial<Trial>) => {
      now = { ...now, ...part };
      if (!signal.aborted || part.busy === false) setTrial(now);
    };
    tell({});
    try {
      const answer = await fetch('/api/pages/try', {
        method: 'POST',
        signal,
        headers: { 'Content-Type': 'application/json', ...csrfHeaders() },
        body: JSON.stringify({ guide, items, address }),
      });
      for await (const line of readLines<Tried>(answer)) {
        if (line.page) tell({ listing: line });
        if (line.item) tell({ items: [...now.items, line] });
        if (line.why) tell({ why: line.why });
      }
      tell({ busy: false });
    } catch (error) {
      tell({ busy: false, why: signal.aborted ? undefined : error instanceof Error ? error.message : String(error) });
    }
  };
  return { trial, run, stop: () => ended.current.abort() };
}
