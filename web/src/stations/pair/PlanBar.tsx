import { Button, Menu } from '@mantine/core';
import { named, t } from '../../words/words';
import { ruleName, rules } from './rules';
import type { usePlan } from './usePlan';
import './PlanBar.css';

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
          <Menu position="top-end" width={330}>
            <Menu.Target>
              <Button variant="subtle" size="compact-sm" className="quietbutton">
                {t('pair.rule')}&nbsp;<b>{ruleName(plan.rule)}</b>
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Label>{t('pair.rule_where')}</Menu.Label>
              {rules.map((r) => (
                <Menu.Item
                  key={r}
                  role="menuitemradio"
                  aria-checked={r === plan.rule}
                  onClick={() => plan.setRule(r)}
                  rightSection={r === plan.rule ? '✓' : ''}
                >
                  <b>{ruleName(r)}</b>
                  <br />
                  <span className="soft">{named(`rule_does.${r}`)}</span>
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
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
