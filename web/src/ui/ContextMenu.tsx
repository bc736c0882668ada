import { Menu } from '@mantine/core';
import { t } from '../words/words';
import type { Act } from './acts';

interface Props {
  /** Where it stands on the page; nowhere while it is closed. */
  place: { x: number; y: number } | undefined;
  acts: Act[];
  onClose: () => void;
}

/** The menu of a row: what its keys do, to be had by the mouse. */
export function ContextMenu({ place, acts, onClose }: Props) {
  return (
    <Menu opened={place !== undefined} onClose={onClose} position="bottom-start" returnFocus>
      <Menu.Target>
        <button
          type="button"
          tabIndex={-1}
          aria-label={t('act.menu')}
          style={{
            display: place ? undefined : 'none',
            position: 'fixed',
            left: place?.x,
            top: place?.y,
            width: 1,
            height: 1,
            padding: 0,
            border: 0,
          }}
        />
      </Menu.Target>
      <Menu.Dropdown>
        {acts.map((a) => (
          <Menu.Item
            key={a.name}
            disabled={a.off}
            rightSection={a.key && <kbd>{a.key}</kbd>}
            onClick={() => {
              onClose();
              a.does();
            }}
          >
            {a.name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
