import type { Line } from '../../api/client';
import { wordOf } from '../../words/messages';

export const gradeKinds = ['sure', 'likely', 'contested', 'unclaimed', 'ignored'];

/** What lines are filtered by besides their grade, by the server's names. */
export const decidedKinds = ['hand', 'aside'] as const;
export const lookKinds = ['colour', 'alike', 'present', 'shared', 'number', 'seen', 'type'] as const;
type Kind = (typeof decidedKinds)[number] | (typeof lookKinds)[number];

/** Whether a line is of a kind, or of a group of unclaimed lines that differ in the same way. */
export function isOf(l: Line, show: string, group: string | undefined): boolean {
  if (show === 'all') return true;
  if (group !== undefined) return l.grade === 'unclaimed' && !l.aside && byGroup(l, group) !== undefined;
  if (gradeKinds.includes(show)) return l.grade === show && !l.aside;
  return l.kinds?.includes(show as Kind) ?? false;
}

/** The candidate from which a line differs as the group says. */
export const byGroup = (l: Line, group: string) =>
  l.candidates?.find((c) => c.differs !== undefined && wordOf(c.differs) === group);
