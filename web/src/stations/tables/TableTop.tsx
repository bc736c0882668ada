import { Button } from '@mantine/core';
import type { Table } from '../../api/tables';
import { when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { sayAll } from '../../words/messages';
import { named, t } from '../../words/words';
import { Collect } from './Collect';
import { RemoveTable } from './RemoveTable';
import type { Edits } from './useEdits';

interface Props {
  table: Table;
  mayEdit: boolean;
  edits: Edits;
  show: string | undefined;
}

/** What a table is, how far its check is, and the repairs that can be accepted at once. */
export function TableTop({ table, mayEdit, edits, show }: Props) {
  const at = table.state === 'waiting' || table.state === 'working';
  const repairable = ['picture_near', 'barcode_damaged', 'zeros_lost', 'blank_trimmed'].filter((k) => table.kinds[k]);
  const chosen = show && repairable.includes(show) ? show : undefined;
  const repairs = chosen ? table.kinds[chosen] : repairable.length;
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{table.name}</h1>
          <p className="soft">
            {t('tables.facts', { count: table.rows, when: when(table.createdAt), person: table.person })}
          </p>
        </div>
        {mayEdit && table.checked && Boolean(repairs) && (
          <Button onClick={() => edits.repair({ kind: chosen })} loading={edits.pending}>
            {chosen
              ? t('tables.repair_kind', { kind: named(`wrong.${chosen}`), n: table.kinds[chosen] })
              : t('tables.repair_all')}
          </Button>
        )}
        {mayEdit && (
          <Button variant="subtle" className="quietbutton" onClick={() => edits.describe({ closed: !table.closed })}>
            {t(table.closed ? 'tables.reopen' : 'tables.close')}
          </Button>
        )}
        {mayEdit && table.closed && <RemoveTable table={table} />}
        {table.read && (
          <a className="button" href={`/api/tables/${table.id}/file`} download>
            {t('tables.download')}
          </a>
        )}
      </div>
      {at && <Progress label={t(table.read ? 'tables.checking' : 'tables.reading')} done={table.rows} of={0} />}
      <Collect {...{ table, mayEdit }} />
      {table.remarks.length > 0 && <p className="notice">{sayAll(table.remarks)}</p>}
      {table.checked && (
        <p role="status">
          {table.stopped > 0 ? t('tables.stopped_rows', { count: table.stopped }) : t('tables.none_stopped')}
        </p>
      )}
    </header>
  );
}
