import { useState } from 'react';

/** Numbers that are picked. */
export function usePicks() {
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const toggle = (id: number) =>
    setPicked((was) => {
      const now = new Set(was);
      if (!now.delete(id)) now.add(id);
      return now;
    });
  return { picked, toggle, clear: () => setPicked(new Set()) };
}
