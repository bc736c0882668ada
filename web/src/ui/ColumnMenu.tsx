import { Menu, UnstyledButton } from '@mantine/core';
import { t } from '../words/words';
import type { Columns } from './columns';
import { complain, say } from './complain';
import { rowsOf, saveRows } from './exportBoard';
import { useStable } from './useStable';

interface Props<T> {
  columns: Columns<T>;
  label: string;
  lines: T[];
  onAll?: () => Promise<unknown>;
}

/** Which columns are shown, and the lines as a file: what is shown, in its order. */
export function ColumnMenu<T>({ columns, label, lines, onAll }: Props<T>) {
  const movable = columns.all.filter((c) => !c.fixed);
  const rows = useStable(() => rowsOf(lines, columns.shown));
  const save = async (format: 'csv' | 'xlsx') => {
    try {
      say(t('board.saving'));
      await onAll?.();
      await new Promise((done) => setTimeout(done)); // what was fetched is drawn first
      await saveRows(label, format, rows());
    } catch (error) {
      complain(error);
    }
  };
  const told = columns.all.some((c) => c.text ?? c.by);
  if (movable.length === 0 && !told) return null;
  return (
    <Menu position="bottom-end" closeOnItemClick={false}>
      <Menu.Target>
        <UnstyledButton className="choose" aria-label={t('board.columns')}>
          ⋯
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{t('board.columns')}</Menu.Label>
        {movable.map((c) => (
          <Menu.CheckboxItem
            key={c.id}
            checked={!columns.hidden(c.id)}
            onChange={(shown) => columns.set({ hidden: { [c.id]: shown ? null : true } })}
          >
            {c.name}
          </Menu.CheckboxItem>
        ))}
        <Menu.Divider />
        <Menu.Item
          onClick={() =>
            columns.set({
              widths: Object.fromEntries(movable.map((c) => [c.id, null])),
              hidden: Object.fromEntries(movable.map((c) => [c.id, null])),
            })
          }
        >
          {t('board.reset')}
        </Menu.Item>
        {told && (
          <>
            <Menu.Divider />
            <Menu.Label>{t('board.save')}</Menu.Label>
            {(['csv', 'xlsx'] as const).map((format) => (
              <Menu.Item key={format} closeMenuOnClick onClick={() => void save(format)}>
                {format.toUpperCase()}
              </Menu.Item>
            ))}
          </>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}
