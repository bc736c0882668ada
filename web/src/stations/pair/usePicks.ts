import { useState } from 'react';
import type { Line } from '../../api/client';

/** Which lines are picked: one by one, as a range from the last one that was picked or gone to, all of a filter, or the others. */
export function usePicks(lines: Line[]) {
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const [anchor, setAnchor] = useState<number>();
  const ids = (from: number, to: number) => lines.slice(from, to + 1).map((l) => l.id);
  return {
    picked,
    setPicked,
    toggle(id: number) {
      setAnchor(id);
      setPicked((now) => {
        const next = new Set(now);
        if (!next.delete(id)) next.add(id);
        return next;
      });
    },
    /** Picks all from the anchor to a line; from is where the focus was. */
    range(from: number, to: number) {
      const start = lines.findIndex((l) => l.id === anchor);
      const a = start < 0 ? from : start;
      if (start < 0) setAnchor(lines[from]?.id);
      setPicked(new Set(ids(Math.min(a, to), Math.max(a, to))));
    },
    /** A move without Shift: a range begins there. */
    moved: (to: number) => setAnchor(lines[to]?.id),
    all: () => setPicked(new Set(ids(0, lines.length))),
    invert: () => setPicked((now) => new Set(ids(0, lines.length).filter((id) => !now.has(id)))),
  };
}
