import { ActionIcon, Checkbox, TextInput } from '@mantine/core';
import { t } from '../../words/words';
import { type Chosen, columnName, moved } from './columns';

/** The columns of a picture table: which, in which order, and what each is called. */
export function ColumnList({ columns, onChange }: { columns: Chosen[]; onChange: (columns: Chosen[]) => void }) {
  const change = (at: number, part: Partial<Chosen>) =>
    onChange(columns.map((c, i) => (i === at ? { ...c, ...part } : c)));
  return (
    <ul className="plain shotcolumns" aria-label={t('shots.columns')}>
      {columns.map((c, at) => (
        <li key={c.column} className="row">
          <Checkbox
            className="grow"
            label={columnName(c.column)}
            checked={c.on}
            onChange={(e) => change(at, { on: e.currentTarget.checked })}
          />
          <TextInput
            size="xs"
            aria-label={t('shots.header', { column: columnName(c.column) })}
            value={c.header}
            maxLength={200}
            disabled={!c.on}
            onChange={(e) => change(at, { header: e.currentTarget.value })}
          />
          {([-1, 1] as const).map((by) => (
            <ActionIcon
              key={by}
              variant="subtle"
              className="quietbutton"
              aria-label={t(by < 0 ? 'shots.up' : 'shots.down', { column: columnName(c.column) })}
              disabled={at + by < 0 || at + by >= columns.length}
              onClick={() => onChange(moved(columns, at, by))}
            >
              {by < 0 ? '↑' : '↓'}
            </ActionIcon>
          ))}
        </li>
      ))}
    </ul>
  );
}
