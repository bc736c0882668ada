import { useEffect, useRef, useState } from 'react';
import { readLines } from '../../api/lines';
import type { Entry } from '../../api/sources';

/** How much lies in a folder and below it. */
export interface Below {
  files: number;
  pictures: number;
  bytes: number;
  here: number;
}

export interface Browsed {
  /** By folder, whose path ends in a slash; the drive's own is empty. */
  below: Map<string, Below>;
  found: Entry[];
  done: boolean;
  why?: string;
}

interface Line extends Partial<Below> {
  folder?: string;
  file?: Entry;
  done?: boolean;
  why?: string;
}

const SHOWN_EVERY = 200;
const MOST_FOUND = 2000;

/** Looks through all folders of a drive: counts as they come, and the files whose names hold a text. */
export function useBrowse(source: number, q: string): Browsed & { stop: () => void } {
  const [browsed, setBrowsed] = useState<Browsed>({ below: new Map(), found: [], done: false });
  const stop = useRef(() => {});
  useEffect(() => {
    const ended = new AbortController();
    stop.current = () => ended.abort();
    void look(source, q, ended.signal, setBrowsed);
    return () => ended.abort();
  }, [source, q]);
  return { ...browsed, stop: () => stop.current() };
}

async function look(source: number, q: string, signal: AbortSignal, show: (b: Browsed) => void) {
  const below = new Map<string, Below>();
  const found: Entry[] = [];
  let last = 0;
  const tell = (end: Partial<Browsed> = {}) => {
    last = performance.now();
    show({ below: new Map(below), found: [...found], done: false, ...end });
  };
  tell();
  try {
    const answer = await fetch(`/api/sources/${source}/browse?${new URLSearchParams({ q })}`, { signal });
    for await (const line of readLines<Line>(answer)) {
      if (line.folder !== undefined) add(below, line.folder, line);
      if (line.file && found.length < MOST_FOUND) found.push(line.file);
      if (line.done || line.why) {
        tell({ done: true, why: line.why });
        return;
      }
      if (performance.now() - last > SHOWN_EVERY) tell();
    }
    tell({ done: true });
  } catch (error) {
    if (!signal.aborted) tell({ done: true, why: error instanceof Error ? error.message : String(error) });
    else tell({ done: true });
  }
}

/** Adds what lies in a folder to it and to all above it. */
function add(below: Map<string, Below>, folder: string, more: Line) {
  for (let at = folder; ; at = at.slice(0, at.lastIndexOf('/', at.length - 2) + 1)) {
    const was = below.get(at) ?? { files: 0, pictures: 0, bytes: 0, here: 0 };
    below.set(at, {
      files: was.files + (more.files ?? 0),
      pictures: was.pictures + (more.pictures ?? 0),
      bytes: was.bytes + (more.bytes ?? 0),
      here: was.here + (more.here ?? 0),
    });
    if (at === '') return;
  }
}
