import { useMemo, useState } from 'react';
import type { PictureCard } from '../../api/gallery';

/** The pictures that are picked, by number. */
export interface Picked {
  ids: number[];
  has: (id: number) => boolean;
  toggle: (id: number) => void;
  /** Picks all from one place to another. */
  through: (from: number, to: number) => void;
  set: (ids: number[]) => void;
  clear: () => void;
}

export function usePickedPictures(lines: PictureCard[]): Picked {
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  return useMemo(
    () => ({
      ids: [...picked],
      has: (id) => picked.has(id),
      toggle: (id) =>
        setPicked((was) => {
          const now = new Set(was);
          if (!now.delete(id)) now.add(id);
          return now;
        }),
      through: (from, to) =>
        setPicked(
          (was) => new Set([...was, ...lines.slice(Math.min(from, to), Math.max(from, to) + 1).map((p) => p.id)]),
        ),
      set: (ids) => setPicked(new Set(ids)),
      clear: () => setPicked(new Set()),
    }),
    [picked, lines],
  );
}
