import { Menu, UnstyledButton } from '@mantine/core';
import { t } from '../words/words';
import type { Columns } from './columns';

/** Which columns are shown. */
export function ColumnMenu<T>({ columns }: { columns: Columns<T> }) {
  const movable = columns.all.filter((c) => !c.fixed);
  if (movable.length === 0) return null;
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
      </Menu.Dropdown>
    </Menu>
  );
}
