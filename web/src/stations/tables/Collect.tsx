import { Button } from '@mantine/core';
import { askDelivery } from '../../api/deliveries';
import { deliveryTouched, useAsk, useAskOnce } from '../../api/queries';
import { askTable, isOnItsWay, type Table } from '../../api/tables';
import { Progress } from '../../ui/Progress';
import { t } from '../../words/words';

/** The pictures that stand in a table as addresses or lie in its cells: how many are not here yet, and how far they are. */
export function Collect({ table, mayEdit }: { table: Table; mayEdit: boolean }) {
  const collect = useAskOnce(() => askTable.collect(table.id), [['table', table.id], ['deliveries']]);
  const stop = useAsk(askDelivery.stop, [...deliveryTouched, ['table', table.id]]);
  const working = table.own.find((d) => d.collected && isOnItsWay(d));
  if (working)
    return (
      <div className="row">
        <Progress label={t('tables.collecting')} done={working.done} of={working.total} />
        <Button size="xs" disabled={working.state === 'stopping'} onClick={() => stop.mutate(working.id)}>
          {t('tables.stop_collecting')}
        </Button>
      </div>
    );
  if (table.waiting === 0 || !table.checked) return null;
  return (
    <div className="row notice">
      <span className="grow">{t('tables.waiting', { count: table.waiting })}</span>
      {mayEdit && (
        <Button size="compact-sm" className="go" loading={collect.isPending} onClick={() => collect.mutate(undefined)}>
          {t('tables.collect', { n: table.waiting })}
        </Button>
      )}
    </div>
  );
}
