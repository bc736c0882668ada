import type { Line } from '../../api/client';
import { wordOf } from '../../words/messages';

export const gradeKinds = ['sure', 'likely', 'contested', 'unclaimed', 'ignored'];

/** What lines are filtered by besides their grade, by the server's names. */
export const decidedKinds = ['hand', 'aside', 'checked'] as const;
export const lookKinds = ['colour', 'alike', 'present', 'shared', 'number', 'seen', 'type'] as const;
type Kind = (typeof decidedKinds)[number] | (typeof lookKinds)[number];

/** Lines that have the same said of them: unclaimed that differ in the same way, or likely for the same reason. */
export interface Group {
  of: 'unclaimed' | 'likely';
  word: string;
}

const prefixes = { unclaimed: 'perhaps:', likely: 'because:' } as const;

/** A group as it stands in the address. */
export const groupAddress = ({ of, word }: Group) => prefixes[of] + word;

export function groupOf(show: string): Group | undefined {
  for (const of of ['unclaimed', 'likely'] as const) {
    if (show.startsWith(prefixes[of])) return { of, word: show.slice(prefixes[of].length) };
  }
  return undefined;
}

/** Whether a line is of a kind, or of a group. */
export function isOf(l: Line, show: string, group: Group | undefined): boolean {
  if (show === 'all') return true;
  if (group) return l.grade === group.of && !l.aside && !l.person && saidOf(l, group) !== undefined;
  if (show === 'toread') return Boolean(l.owner && l.sha) && !l.aside && !l.kinds?.includes('checked');
  if (gradeKinds.includes(show)) return l.grade === show && !l.aside;
  return l.kinds?.includes(show as Kind) ?? false;
}

/** What a group's lines have in common, as it is said of one of them, and whom it would go to. */
export function saidOf(l: Line, group: Group) {
  if (group.of === 'unclaimed') {
    const c = l.candidates?.find((c) => c.differs !== undefined && wordOf(c.differs) === group.word);
    return c?.differs && { says: c.differs, owner: c.owner };
  }
  const says = l.doubt?.[0];
  return says && wordOf(says) === group.word ? { says, owner: l.owner } : undefined;
}
