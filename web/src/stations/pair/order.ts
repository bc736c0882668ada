import type { Line } from '../../api/client';

/** The lines of one owner in the order wanted. */
export interface Ordered {
  owner: number;
  arrivals: number[];
}

/** A line's place among an owner's pictures; 0 where the owner doesn't get it. */
export const placeAt = (l: Line, owner: number): number =>
  l.owner === owner ? (l.place ?? 0) : (l.also?.find((a) => a.owner === owner)?.place ?? 0);

/** The delivery's pictures for one owner, in the order they would take. */
export const siblings = (lines: Line[], owner: number) =>
  lines.filter((l) => placeAt(l, owner) > 0).sort((a, b) => placeAt(a, owner) - placeAt(b, owner));

/** Where lines are moved to among their owner's: one place, or all the way. */
export type Move = 'earlier' | 'later' | 'first' | 'last';

/** The order of each owner's lines with the chosen ones moved; only owners whose order changes. */
export function moved(lines: Iterable<Line>, chosen: Line[], move: Move): Ordered[] {
  const ids = new Set(chosen.map((l) => l.id));
  const owners = new Set(chosen.flatMap((l) => l.owner ?? []));
  const of = new Map<number, Line[]>([...owners].map((o) => [o, []]));
  for (const l of lines) {
    for (const o of [l.owner, ...(l.also ?? []).map((a) => a.owner)]) if (o) of.get(o)?.push(l);
  }
  return [...of].flatMap(([owner, theirs]) => {
    const now = siblings(theirs, owner).map((l) => l.id);
    const arrivals = shifted(now, ids, move);
    return arrivals.some((id, i) => id !== now[i]) ? [{ owner, arrivals }] : [];
  });
}

/** An order with some of it moved; those that are moved keep their order among themselves. */
function shifted(order: number[], ids: Set<number>, move: Move): number[] {
  const chosen = order.filter((id) => ids.has(id));
  const rest = order.filter((id) => !ids.has(id));
  if (move === 'first') return [...chosen, ...rest];
  if (move === 'last') return [...rest, ...chosen];
  const out = move === 'earlier' ? [...order] : order.toReversed();
  for (let i = 1; i < out.length; i++) {
    const [before, here] = [out[i - 1] as number, out[i] as number];
    if (ids.has(here) && !ids.has(before)) [out[i - 1], out[i]] = [here, before];
  }
  return move === 'earlier' ? out : out.toReversed();
}
