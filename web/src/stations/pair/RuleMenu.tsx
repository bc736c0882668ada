import { Button, Menu } from '@mantine/core';
import type { Rule } from '../../api/queries';
import { named, t } from '../../words/words';
import { ruleName, rules } from './rules';
import type { usePlan } from './usePlan';

/** The house rule, and the others to choose from. */
export function RuleMenu({ plan }: { plan: Pick<ReturnType<typeof usePlan>, 'rule' | 'setRule'> }) {
  return (
    <Menu position="top-end" width={330}>
      <Menu.Target>
        <Button variant="subtle" size="compact-sm" className="quietbutton">
          {t('pair.rule')}&nbsp;<b>{ruleName(plan.rule)}</b>
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{t('pair.rule_where')}</Menu.Label>
        <Menu.RadioGroup value={plan.rule} onChange={(r) => plan.setRule(r as Rule)}>
          {rules.map((r) => (
            <Menu.RadioItem key={r} value={r}>
              <b>{ruleName(r)}</b>
              <br />
              <span className="soft">{named(`rule_does.${r}`)}</span>
            </Menu.RadioItem>
          ))}
        </Menu.RadioGroup>
      </Menu.Dropdown>
    </Menu>
  );
}
