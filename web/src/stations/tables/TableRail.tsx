import { Button, NativeSelect } from '@mantine/core';
import type { Schemas } from '../../api/client';
import { useDeliveries } from '../../api/pages';
import type { Table } from '../../api/tables';
import { Filter } from '../../ui/Filter';
import { named, t } from '../../words/words';
import { Assignments } from './Assignments';
import { EmptyTables } from './EmptyTables';
import { OwnPictures } from './OwnPictures';
import { Sending } from './Sending';
import { SendTable } from './SendTable';
import type { Edits } from './useEdits';

interface Props {
  tables: Schemas['TableFacts'][] | undefined;
  more: (() => void) | undefined;
  /** Whether those are shown too that people are done with. */
  closed: boolean;
  setClosed: (closed: boolean) => void;
  table: Table | undefined;
  show: string | undefined;
  mayEdit: boolean;
  edits: Edits;
  onTable: (id: number) => void;
  onShow: (kind: string | undefined) => void;
}

/** The tables in hand, the problems of the one that is shown, and how it is read. */
export function TableRail({ tables, more, closed, setClosed, table, show, mayEdit, edits, onTable, onShow }: Props) {
  const kinds = Object.entries(table?.kinds ?? {}).sort((a, b) => b[1] - a[1]);
  return (
    <>
      <h2 className="railhead">{t('station.tables')}</h2>
      {mayEdit && (
        <div className="sendtable">
          <SendTable name={t('tables.send')} />
          <Sending />
        </div>
      )}
      {tables?.map((w) => (
        <Filter
          key={w.id}
          name={
            <>
              {w.name}
              <small>{w.state === 'done' ? t('tables.stopped', { n: w.stopped }) : named(`state.${w.state}`)}</small>
            </>
          }
          count={w.rows}
          on={w.id === table?.id}
          onClick={() => onTable(w.id)}
        />
      ))}
      {more && (
        <Button size="compact-xs" onClick={more}>
          {t('tables.older')}
        </Button>
      )}
      <Button size="compact-sm" variant="subtle" className="quietbutton" onClick={() => setClosed(!closed)}>
        {t(closed ? 'tables.hide_closed' : 'tables.show_closed')}
      </Button>
      {table?.read && (
        <>
          <h2 className="railhead">{t('tables.rows')}</h2>
          <Filter name={t('tables.all')} count={table.rows} on={!show} onClick={() => onShow(undefined)} />
          {kinds.map(([kind, n]) => (
            <Filter
              key={kind}
              name={named(`wrong.${kind}`) || kind}
              count={n}
              on={show === kind}
              onClick={() => onShow(show === kind ? undefined : kind)}
            />
          ))}
          {mayEdit && <OwnPictures table={table} />}
          {mayEdit && <Reading table={table} edits={edits} />}
          {mayEdit && <Assignments key={table.id} table={table} />}
          <EmptyTables />
        </>
      )}
    </>
  );
}

const keys = ['sku', 'barcode', 'code', 'title'] as const;
const modes = ['both', 'create', 'update'] as const;

/** How a table is read: the key, what it may do, what an empty cell means, whose pictures it names. */
function Reading({ table, edits }: { table: Table; edits: Edits }) {
  const { all: deliveries } = useDeliveries();
  return (
    <div className="reading">
      <h2 className="railhead">{t('tables.how')}</h2>
      {table.sheets.length > 1 && (
        <NativeSelect
          label={t('tables.sheet')}
          value={String(table.sheet)}
          onChange={(e) => edits.describe({ sheet: Number(e.currentTarget.value) })}
          data={table.sheets.map((s, i) => ({
            value: String(i),
            label: s.hidden ? t('tables.hidden', { name: s.name }) : s.name,
          }))}
        />
      )}
      <NativeSelect
        label={t('tables.key')}
        value={table.key}
        onChange={(e) => edits.describe({ key: e.currentTarget.value })}
        data={keys.map((k) => ({ value: k, label: t(`tables.field_${k}`) }))}
      />
      <NativeSelect
        label={t('tables.mode')}
        value={table.mode}
        onChange={(e) => edits.describe({ mode: e.currentTarget.value as Table['mode'] })}
        data={modes.map((m) => ({ value: m, label: t(`tables.mode_${m}`) }))}
      />
      <NativeSelect
        label={t('tables.empty')}
        value={table.clears ? 'clear' : 'keep'}
        onChange={(e) => edits.describe({ clears: e.currentTarget.value === 'clear' })}
        data={(['keep', 'clear'] as const).map((m) => ({ value: m, label: t(`tables.empty_${m}`) }))}
      />
      <NativeSelect
        label={t('tables.pictures')}
        value={String(table.delivery ?? 0)}
        onChange={(e) => edits.describe({ delivery: Number(e.currentTarget.value) })}
        data={[
          { value: '0', label: t('tables.pictures_all') },
          ...(deliveries ?? []).map((d) => ({ value: String(d.id), label: d.title })),
        ]}
      />
    </div>
  );
}
