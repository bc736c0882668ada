import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { lazy, Suspense } from 'react';
import { type Rule, useAskOnce } from '../../api/queries';
import { askTable, type Table } from '../../api/tables';
import { useKeys } from '../../ui/useKeys';
import { t } from '../../words/words';
import { useRule } from '../pair/rules';

const RuleMenu = lazy(() => import('../pair/RuleMenu').then((m) => ({ default: m.RuleMenu })));

/** Where one is, the house rule for pictures, and the way to the plan. */
export function TableFoot({ table, at, rows, mayEdit }: { table: Table; at: number; rows: number; mayEdit: boolean }) {
  const [rule, setRule] = useRule();
  const navigate = useNavigate();
  const plan = useAskOnce((r: Rule) => askTable.plan(table.id, r), [['table', table.id]]);
  const goes = table.rows - table.stopped;
  const can = mayEdit && table.checked && goes > 0;
  const see = () =>
    plan.mutate(rule, { onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }) });
  useKeys([['mod+Enter', () => can && see(), { preventDefault: true }]]);
  return (
    <>
      <span className="figures">{t('tables.row_of', { at: Math.min(at + 1, rows), of: table.rows })}</span>
      <span className="hints" aria-hidden>
        <kbd>↑ ↓ ← →</kbd> {t('tables.hint_move')} <kbd>F2</kbd> {t('tables.hint_edit')} <kbd>Enter</kbd>{' '}
        {t('tables.hint_repair')} <kbd>Ctrl Z</kbd> {t('tables.hint_undo')}
      </span>
      <span className="grow" />
      {mayEdit && (
        <>
          <Suspense>
            <RuleMenu plan={{ rule, setRule }} />
          </Suspense>
          <span className="figures">{t('tables.goes', { n: goes })}</span>
          <Button size="compact-sm" className="go" onClick={see} loading={plan.isPending} disabled={!can}>
            {t('tables.plan')}
          </Button>
        </>
      )}
    </>
  );
}
