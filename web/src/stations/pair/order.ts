import type { Line } from '../../api/client';
import type { Decision } from '../../api/queries';
import { asItStands } from './decisions';

/** A line's place among an owner's pictures; 0 where the owner doesn't get it. */
export const placeAt = (l: Line, owner: number): number =>
  l.owner === owner ? (l.place ?? 0) : (l.also?.find((a) => a.owner === owner)?.place ?? 0);

/** The delivery's pictures for one owner, in the order they would take. */
export const siblings = (lines: Line[], owner: number) =>
  lines.filter((l) => placeAt(l, owner) > 0).sort((a, b) => placeAt(a, owner) - placeAt(b, owner));

/** The decisions that give an owner's lines the order they stand in. */
export const ranked = (order: Line[], owner: number): Decision[] =>
  order.map((l, i) =>
    l.owner === owner
      ? { ...asItStands(l), rank: i + 1 }
      : { ...asItStands(l), also: l.also?.map((a) => (a.owner === owner ? { ...a, rank: i + 1 } : a)) },
  );

/** Moves a line earlier or later among its owner's; nothing where it is at the end. */
export function moved(lines: Line[], line: Line, by: number): { decisions: Decision[]; before: Line[] } | undefined {
  if (!line.owner) return undefined;
  const before = siblings(lines, line.owner);
  const from = before.findIndex((l) => l.id === line.id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= before.length) return undefined;
  const order = [...before];
  order.splice(to, 0, ...order.splice(from, 1));
  return { decisions: ranked(order, line.owner), before };
}
