import { Button, Menu } from '@mantine/core';
import { useLocalStorage } from '@mantine/hooks';
import { useNavigate } from '@tanstack/react-router';
import { ask, useAsk } from '../../api/queries';
import { count } from '../../ui/format';
import { type Rule, ruleName, rules } from './rules';

interface Props {
  delivery: number;
  ready: number;
  at: number;
  lines: number;
  picked: number;
  mayEdit: boolean;
}

/** The foot of the Pair bench: where one is, the house rule, and the way to the plan. */
export function PlanBar({ delivery, ready, at, lines, picked, mayEdit }: Props) {
  const [rule, setRule] = useLocalStorage<Rule>({
    key: 'ambrosa-rule',
    defaultValue: 'only_where_empty',
    getInitialValueInEffect: false,
  });
  const navigate = useNavigate();
  const plan = useAsk((r: Rule) => ask.plan(delivery, r), []);
  const see = () =>
    plan.mutate(rule, { onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }) });
  return (
    <>
      <span className="figures">
        Line {count(Math.min(at + 1, lines))} of {count(lines)}
      </span>
      {picked > 0 && <span>{count(picked)} selected</span>}
      <span className="hints">
        <kbd>j</kbd> <kbd>k</kbd> move <kbd>Enter</kbd> accept <kbd>s</kbd> search <kbd>x</kbd> aside <kbd>z</kbd> take
        back <kbd>?</kbd> all keys
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
