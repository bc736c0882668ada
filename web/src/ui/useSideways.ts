import { type RefObject, useEffect, useMemo, useState } from 'react';
import { flushSync } from 'react-dom';
import type { Columns } from './columns';

/** How many columns beside those that are seen are drawn. */
const BESIDE = 4;

/** Which of the shown columns are drawn, by their place: none stands for all. */
export interface Drawn {
  from: number;
  to: number;
}

const pixels = (width: string) => Number(/(\d+(?:\.\d+)?)px/.exec(width)?.[1] ?? 0);

/** The columns that are in sight of a board that is scrolled sideways; nothing where all are drawn. */
export function useSideways<T>(
  scroll: RefObject<HTMLElement | null>,
  columns: Columns<T>,
  width: number,
  on: boolean,
): Drawn | undefined {
  const ends = useMemo(() => {
    let end = 0;
    return columns.widths.map((w) => {
      end += pixels(w);
      return end;
    });
  }, [columns.widths]);
  const [drawn, setDrawn] = useState<Drawn>();
  useEffect(() => {
    const at = scroll.current;
    if (!on || !at || width === 0) return setDrawn(undefined);
    const look = () => {
      const first = ends.findIndex((end) => end > at.scrollLeft);
      const behind = ends.findIndex((end) => end > at.scrollLeft + width);
      const from = Math.max(0, first - BESIDE);
      const to = behind < 0 ? ends.length : Math.min(ends.length, behind + 1 + BESIDE);
      setDrawn((was) => (was?.from === from && was.to === to ? was : { from, to }));
    };
    look();
    // Drawn in the frame in which it is scrolled, as the lines are: later there would be a gap.
    const now = () => flushSync(look);
    at.addEventListener('scroll', now, { passive: true });
    return () => at.removeEventListener('scroll', now);
  }, [scroll, ends, width, on]);
  return drawn;
}

/** Whether a column is drawn: those in sight, the first, and the one that has the focus. */
export const isDrawn = (drawn: Drawn | undefined, at: number, kept: number) =>
  !drawn || at === 0 || at === kept || (at >= drawn.from && at < drawn.to);
