import type { Line } from '../../api/client';

/** A line's place among an owner's pictures; 0 where the owner doesn't get it. */
export const placeAt = (l: Line, owner: number): number =>
  l.owner === owner ? (l.place ?? 0) : (l.also?.find((a) => a.owner === owner)?.place ?? 0);

/** The delivery's pictures for one owner, in the order they would take. */
export const siblings = (lines: Line[], owner: number) =>
  lines.filter((l) => placeAt(l, owner) > 0).sort((a, b) => placeAt(a, owner) - placeAt(b, owner));

/** The order of an owner's lines with one of them earlier or later; nothing where it is at the end. */
export function moved(lines: Line[], line: Line, by: number): number[] | undefined {
  if (!line.owner) return undefined;
  const order = siblings(lines, line.owner).map((l) => l.id);
  const from = order.indexOf(line.id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= order.length) return undefined;
  order.splice(to, 0, ...order.splice(from, 1));
  return order;
}
