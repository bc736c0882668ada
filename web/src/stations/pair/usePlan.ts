import { useNavigate } from '@tanstack/react-router';
import { ask, type Rule, useAskOnce } from '../../api/queries';
import { useRule } from './rules';

/** The way from a delivery to its plan, under the house rule that is chosen. */
export function usePlan(delivery: number) {
  const [rule, setRule] = useRule();
  const navigate = useNavigate();
  const plan = useAskOnce((r: Rule) => ask.plan(delivery, r), []);
  return {
    rule,
    setRule,
    pending: plan.isPending,
    see: () =>
      plan.mutate(rule, { onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }) }),
  };
}
