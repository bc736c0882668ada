import { useLocalStorage } from '@mantine/hooks';
import type { Rule } from '../../api/queries';

/** House rules: what to do where the owner already has pictures. */
export const rules: { rule: Rule; name: string; does: string }[] = [
  { rule: 'only_where_empty', name: 'only where empty', does: 'Owners that have pictures stay as they are.' },
  { rule: 'add_after', name: 'add after', does: 'What stands stays; new pictures come behind it.' },
  { rule: 'same_place', name: 'same place', does: 'A picture takes the place its number names; the others stay.' },
  { rule: 'whole_set', name: 'whole set', does: 'The delivery’s pictures become all that the owner has.' },
];

export const ruleName = (rule?: string) => rules.find((r) => r.rule === rule)?.name ?? '';

/** The rule that this person used last. */
export const useRule = () =>
  useLocalStorage<Rule>({ key: 'ambrosa-rule', defaultValue: 'only_where_empty', getInitialValueInEffect: false });
