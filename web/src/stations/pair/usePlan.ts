import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { ask, type Rule, readyQuery, useAskOnce } from '../../api/queries';
import { useRule } from './rules';

/** The way from a delivery to its plan, under the house rule that is chosen. */
export function usePlan(delivery: number, version: string | undefined) {
  const [rule, setRule] = useRule();
  const navigate = useNavigate();
  const plan = useAskOnce((r: Rule) => ask.plan(delivery, r), []);
  const ready = useQuery(readyQuery(delivery, rule, version)).data;
  return {
    rule,
    /** What the rule lets through, once it is counted. */
    ready,
    setRule,
    pending: plan.isPending,
    see: () =>
      plan.mutate(rule, { onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }) }),
  };
}
