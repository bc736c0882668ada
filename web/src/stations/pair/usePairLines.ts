import { useCallback, useMemo } from 'react';
import type { Line, Pairing } from '../../api/client';
import { inOrder } from '../../ui/columns';
import { type Group, isOf } from './kinds';
import { pairColumns } from './pairColumns';

interface Wanted {
  show: string;
  group: Group | undefined;
  q: string;
  sort: string | undefined;
}

export const usable = (l: Line) => l.grade !== 'ignored' && Boolean(l.sha);

/** The lines of a delivery that pass the filter, in the order wanted, and what belongs to them. */
export function usePairLines(pairing: Pairing | undefined, { show, group, q, sort }: Wanted) {
  const all = pairing?.lines;
  const owners = useMemo(() => new Map((pairing?.owners ?? []).map((o) => [o.id, o])), [pairing]);
  const byID = useMemo(() => new Map((all ?? []).map((l) => [l.id, l])), [all]);
  const columns = useMemo(() => pairColumns(owners), [owners]);
  // What can't be paired comes last, so that the first picture has the focus from the start.
  const ordered = useMemo(() => {
    const lines = all ? [...all.filter(usable), ...all.filter((l) => !usable(l))] : [];
    return inOrder(lines, columns, sort);
  }, [all, columns, sort]);
  const passes = useCallback(
    (l: Line) => {
      if (!isOf(l, show, group)) return false;
      return !q || [l.path, owners.get(l.owner ?? 0)?.sku].some((s) => s?.toLowerCase().includes(q));
    },
    [show, group, q, owners],
  );
  const lines = useMemo(() => (show === 'all' && !q ? ordered : ordered.filter(passes)), [ordered, passes, show, q]);
  return { all, owners, byID, columns, lines, passes };
}

/** The next line behind what was decided that nobody decided, else the one before; where there is none, the focus stays. */
export function nextOf(lines: Line[], at: number, decided: Line[], of: (l: Line) => boolean = (l) => !l.person) {
  const done = new Set(decided.map((l) => l.id));
  const open = (l: Line) => usable(l) && !done.has(l.id) && of(l);
  for (let i = at + 1; i < lines.length; i++) {
    const l = lines[i];
    if (l && open(l)) return l.id;
  }
  for (let i = Math.min(at, lines.length) - 1; i >= 0; i--) {
    const l = lines[i];
    if (l && open(l)) return l.id;
  }
  return lines[at]?.id;
}
