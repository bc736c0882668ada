import { Button } from '@mantine/core';
import { lazy, Suspense } from 'react';
import { t } from '../../words/words';
import { ruleName } from './rules';
import type { usePlan } from './usePlan';
import './PlanBar.css';

const RuleMenu = lazy(() => import('./RuleMenu').then((m) => ({ default: m.RuleMenu })));

interface Props {
  ready: number;
  at: number;
  /** What the board shows a row of. */
  what: 'line' | 'owner';
  lines: number;
  picked: number;
  /** How many of them the filter hides. */
  hidden: number;
  mayEdit: boolean;
  plan: ReturnType<typeof usePlan>;
}

/** The foot of the Pair bench: where one is, the house rule, and the way to the plan. */
export function PlanBar({ ready, at, what, lines, picked, hidden, mayEdit, plan }: Props) {
  return (
    <>
      <span className="figures">{t(`pair.${what}_of`, { at: Math.min(at + 1, lines), of: lines })}</span>
      {picked > 0 && <span>{t(hidden > 0 ? 'pair.picked_hidden' : 'pair.picked', { n: picked, hidden })}</span>}
      <span className="hints" aria-hidden>
        <kbd>j</kbd> <kbd>k</kbd> {t('pair.hint_move')} <kbd>Enter</kbd> {t('pair.hint_accept')} <kbd>s</kbd>{' '}
        {t('pair.hint_search')} <kbd>x</kbd> {t('pair.hint_aside')} <kbd>z</kbd> {t('pair.hint_undo')} <kbd>?</kbd>{' '}
        {t('pair.hint_keys')}
      </span>
      <span className="grow" />
      {mayEdit && (
        <>
          <Suspense fallback={<span>{ruleName(plan.rule)}</span>}>
            <RuleMenu plan={plan} />
          </Suspense>
          <span className="figures" role="status">
            {plan.ready && plan.ready.lines < ready
              ? t('pair.ready_of', { n: plan.ready.lines, ready })
              : t('pair.ready', { n: ready })}
          </span>
          <Button
            size="compact-sm"
            className="go"
            onClick={plan.see}
            loading={plan.pending}
            disabled={ready === 0 || plan.ready?.owners === 0}
          >
            {t('pair.plan')}
          </Button>
        </>
      )}
    </>
  );
}
