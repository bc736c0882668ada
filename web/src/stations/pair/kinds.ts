import type { Line, Owner } from '../../api/client';

export const gradeKinds = ['sure', 'likely', 'contested', 'unclaimed', 'ignored'];
export const decidedKinds = ['by hand', 'set aside'];
export const lookKinds = [
  'another colour',
  'looks like one it has',
  'already there',
  'one picture, two owners',
  'two with one number',
  'seen before',
  'type and name differ',
];

/** Sorts lines into the kinds that the rail counts and filters by; a line may be of several. */
export function sorted(lines: Line[], owners: Map<number, Owner>): Map<string, Set<number>> {
  const kinds = new Map<string, Set<number>>();
  const put = (kind: string, line: Line) => {
    const set = kinds.get(kind);
    if (set) set.add(line.id);
    else kinds.set(kind, new Set([line.id]));
  };
  const ownersOf = new Map<string, Set<number>>();
  const numbered = new Map<string, Line[]>();
  for (const l of lines) {
    if (!l.owner || !l.sha) continue;
    const set = ownersOf.get(l.sha) ?? new Set();
    ownersOf.set(l.sha, set.add(l.owner));
    for (const a of l.also ?? []) set.add(a.owner);
    if (l.number === undefined) continue;
    const key = `${l.owner}#${l.number}`;
    const list = numbered.get(key);
    if (list) list.push(l);
    else numbered.set(key, [l]);
  }
  for (const l of lines) {
    if (l.aside) put('set aside', l);
    else put(l.grade, l);
    if (l.person && !l.aside) put('by hand', l);
    if (l.seen) put('seen before', l);
    if (l.problem === 'type_differs') put('type and name differ', l);
    if (l.colour) put('another colour', l);
    if (l.alike) put('looks like one it has', l);
    if (!l.owner || !l.sha) continue;
    if (owners.get(l.owner)?.now.includes(l.sha)) put('already there', l);
    if ((ownersOf.get(l.sha)?.size ?? 0) > 1) put('one picture, two owners', l);
    if ((numbered.get(`${l.owner}#${l.number}`)?.length ?? 0) > 1) put('two with one number', l);
  }
  return kinds;
}

/** Lines that nobody claims, grouped by what is probably wrong, the largest group first. */
export function perhaps(lines: Line[]): [differs: string, lines: Line[]][] {
  const groups = new Map<string, Line[]>();
  for (const l of lines) {
    if (l.grade !== 'unclaimed' || l.aside || !l.candidates) continue;
    for (const differs of new Set(l.candidates.map((c) => c.differs ?? ''))) {
      if (!differs) continue;
      const group = groups.get(differs);
      if (group) group.push(l);
      else groups.set(differs, [l]);
    }
  }
  return [...groups].filter(([, g]) => g.length > 2).sort((a, b) => b[1].length - a[1].length);
}
