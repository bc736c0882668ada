import { type HotkeyItem, useHotkeys } from '@mantine/hooks';
import { useSettings } from './settings';

/** Whether a dialog or a menu is open, which then has all keys for itself. */
export const covered = () => document.querySelector('[role=dialog], [role=menu]') !== null;

/**
 * Keys that work anywhere on the page: not behind a dialog, not while somebody types, and single keys only where the person has
 * not switched them off (WCAG 2.2, 2.1.4). Those with Ctrl or Alt always work.
 */
export function useKeys(keys: HotkeyItem[]) {
  const [{ keys: single = true }] = useSettings();
  useHotkeys(
    keys
      .filter(([key]) => single || /mod|ctrl|alt/i.test(key))
      .map(([key, act, options]) => [key, (event) => !covered() && act(event), { preventDefault: false, ...options }]),
  );
}
