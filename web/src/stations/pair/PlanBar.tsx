import { Button, Menu } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { ask, type Rule, useAskOnce } from '../../api/queries';
import { count } from '../../ui/format';
import { ruleName, rules, useRule } from './rules';
import './PlanBar.css';

interface Props {
  delivery: number;
  ready: number;
  at: number;
  /** What the board shows a row of: Line or Owner. */
  what: string;
  lines: number;
  picked: number;
  /** How many of them the filter hides. */
  hidden: number;
  mayEdit: boolean;
}

/** The foot of the Pair bench: where one is, the house rule, and the way to the plan. */
export function PlanBar({ delivery, ready, at, what, lines, picked, hidden, mayEdit }: Props) {
  const [rule, setRule] = useRule();
  const navigate = useNavigate();
  const plan = useAskOnce((r: Rule) => ask.plan(delivery, r), []);
  const see = () =>
    plan.mutate(rule, { onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }) });
  return (
    <>
      <span className="figures">
        {what} {count(Math.min(at + 1, lines))} of {count(lines)}
      </span>
      {picked > 0 && (
        <span>
          {count(picked)} picked{hidden > 0 && `, ${count(hidden)} not shown`}
        </span>
      )}
      <span className="hints">
        <kbd>j</kbd> <kbd>k</kbd> move <kbd>Enter</kbd> accept <kbd>s</kbd> search <kbd>x</kbd> aside <kbd>z</kbd> undo{' '}
        <kbd>?</kbd> all keys
      </span>
      <span className="grow" />
      {mayEdit && (
        <>
          <Menu position="top-end" width={330}>
            <Menu.Target>
              <Button variant="subtle" size="compact-sm" className="quietbutton">
                House rule:&nbsp;<b>{ruleName(rule)}</b>
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Label>Where the owner already has pictures</Menu.Label>
              {rules.map((r) => (
                <Menu.Item key={r.rule} onClick={() => setRule(r.rule)} rightSection={r.rule === rule ? '●' : ''}>
                  <b>{r.name}</b>
                  <br />
                  <span className="soft">{r.does}</span>
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
          <span className="figures">{count(ready)} ready</span>
          <Button size="compact-sm" className="go" onClick={see} loading={plan.isPending} disabled={ready === 0}>
            See the plan
          </Button>
        </>
      )}
    </>
  );
}
