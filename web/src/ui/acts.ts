import type { KeyboardEvent } from 'react';

/** One act of a row's menu. */
export interface Act {
  name: string;
  /** The key that does it too, as it is shown: "Enter", "Ctrl C", "Alt ↑". */
  key?: string;
  does: () => void;
  off?: boolean;
}

/** A pressed key as acts name it. */
export function pressed({ key, ctrlKey, metaKey, altKey }: KeyboardEvent): string {
  const held = ctrlKey || metaKey ? 'Ctrl ' : altKey ? 'Alt ' : '';
  return held + (held && key.length === 1 ? key.toUpperCase() : key);
}
