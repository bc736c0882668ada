import { Button, NativeSelect } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useAsk } from '../../api/queries';
import { alikeQuery, askTable, type Described, type Table } from '../../api/tables';
import { bytes, when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';
import type { Edits } from './useEdits';

interface Props {
  table: Table;
  row: number;
  name: string;
  edits: Edits;
}

/** The pictures of one name side by side, and which of them the row means. */
export function Alike({ table, row, name, edits }: Props) {
  const all = useQuery(alikeQuery(table.id, name)).data ?? [];
  const choose = useAsk(
    (of: { asset: number; row: number }) => askTable.choose(table.id, { ...of, name }),
    [['table', table.id], ['tables']],
  );
  return (
    <section className="alike" aria-label={t('tables.which', { name: plainly(name) })}>
      <h3>{t('tables.which', { name: plainly(name) })}</h3>
      <ul className="plain">
        {all.map((p) => (
          <li key={p.asset}>
            <Thumb sha={p.sha} size={104} />
            <b>{t(p.attached ? 'tables.attached' : 'tables.here')}</b>
            <span className="mono clip">{plainly(p.path)}</span>
            <span className="soft">
              {p.width} × {p.height} · {bytes(p.bytes)}
              <br />
              {p.delivery}, {when(p.createdAt)}
            </span>
            <Button size="compact-sm" className="go" onClick={() => choose.mutate({ asset: p.asset, row })}>
              {t('tables.this_row')}
            </Button>
            <Button size="compact-sm" onClick={() => choose.mutate({ asset: p.asset, row: 0 })}>
              {t('tables.every_row')}
            </Button>
          </li>
        ))}
      </ul>
      {all.some((p) => p.attached) && (
        <NativeSelect
          label={t('tables.for_all')}
          value={table.choice}
          onChange={(e) => edits.describe({ choice: e.currentTarget.value as Described['choice'] })}
          data={[
            ...(table.choice ? [] : ['']),
            ...(['attached', 'here', 'replace'] as const).map((c) => ({ value: c, label: t(`tables.choice_${c}`) })),
          ]}
        />
      )}
    </section>
  );
}
