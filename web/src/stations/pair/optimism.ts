import type { Line, Pairing } from '../../api/client';
import type { Decision } from '../../api/queries';

/** A board as it will be once decisions are kept, as far as that can be told without the server, which has the last word. */
export function foreseen(board: Pairing, decisions: Decision[], person: string): Pairing {
  const decided = new Map(decisions.map((d) => [d.arrival, d]));
  const of = { ...board.counts.of };
  const count = (line: Line, by: number) => {
    for (const kind of [line.aside ? 'aside' : line.grade, ...(line.person && !line.aside ? ['hand'] : [])]) {
      of[kind] = (of[kind] ?? 0) + by;
    }
  };
  const lines = board.lines.map((l) => {
    const d = decided.get(l.id);
    if (!d || (!d.aside && !d.owner)) return l;
    const next: Line = d.aside
      ? { ...l, aside: true, owner: undefined, also: undefined, place: undefined, person }
      : { ...l, aside: false, owner: d.owner, also: d.also, rank: d.rank, grade: 'sure', doubt: undefined, person };
    count(l, -1);
    count(next, 1);
    return next;
  });
  return { ...board, lines, counts: { ...board.counts, of } };
}
