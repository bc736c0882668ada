import { Button, Menu } from '@mantine/core';
import { named, t } from '../../words/words';
import { ruleName, rules } from './rules';
import type { usePlan } from './usePlan';

/** The house rule, and the others to choose from. */
export function RuleMenu({ plan }: { plan: ReturnType<typeof usePlan> }) {
  return (
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
  );
}
