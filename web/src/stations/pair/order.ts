import type { Line } from '../../api/client';
import type { Decision } from './decisions';

/** The delivery's pictures for one owner, in the order they would take. */
export const siblings = (lines: Line[], owner: number) =>
  lines.filter((l) => l.owner === owner && l.place).sort((a, b) => (a.place ?? 0) - (b.place ?? 0));

/** The decisions that give an owner's lines the order they stand in. */
export const ranked = (order: Line[]): Decision[] =>
  order.map((l, i) => ({ arrival: l.id, owner: l.owner, rank: i + 1 }));

/** Moves a line earlier or later among its owner's; nothing where it is at the end. */
export function moved(lines: Line[], line: Line, by: number): { decisions: Decision[]; before: Line[] } | undefined {
  if (!line.owner) return undefined;
  const before = siblings(lines, line.owner);
  const from = before.findIndex((l) => l.id === line.id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= before.length) return undefined;
  const order = [...before];
  order.splice(to, 0, ...order.splice(from, 1));
  return { decisions: ranked(order), before };
}
