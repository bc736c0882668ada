import type { Line, Owner } from '../../api/client';

export const gradeKinds = ['sure', 'likely', 'contested', 'unclaimed', 'ignored'];
export const decidedKinds = ['by hand', 'set aside'];
export const lookKinds = [
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
    const set = ownersOf.get(l.sha);
    if (set) set.add(l.owner);
    else ownersOf.set(l.sha, new Set([l.owner]));
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
    if (!l.owner || !l.sha) continue;
    if (owners.get(l.owner)?.now.includes(l.sha)) put('already there', l);
    if ((ownersOf.get(l.sha)?.size ?? 0) > 1) put('one picture, two owners', l);
    if ((numbered.get(`${l.owner}#${l.number}`)?.length ?? 0) > 1) put('two with one number', l);
  }
  return kinds;
}
