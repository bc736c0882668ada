import { useLocalStorage } from '@mantine/hooks';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useEffect } from 'react';
import type { Rule } from '../../api/queries';
import { named } from '../../words/words';

/** House rules: what to do where the owner already has pictures. */
export const rules: Rule[] = ['only_where_empty', 'add_after', 'same_place', 'whole_set'];

export const ruleName = (rule?: string) => named(`rule.${rule}`);

/** The rule that stands in the address, so that a link shows a colleague the same; else the one that this person used last. */
export function useRule(): [Rule, (rule: Rule) => void] {
  const [last, setLast] = useLocalStorage<Rule>({
    key: 'ambrosa-rule',
    defaultValue: 'only_where_empty',
    getInitialValueInEffect: false,
  });
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const chosen = rules.find((r) => r === search.rule);
  useEffect(() => {
    if (!chosen) void navigate({ to: '.', search: (s) => ({ ...s, rule: last }), replace: true });
  }, [chosen, last, navigate]);
  return [
    chosen ?? last,
    (rule) => {
      setLast(rule);
      void navigate({ to: '.', search: (s) => ({ ...s, rule }), replace: true });
    },
  ];
}
