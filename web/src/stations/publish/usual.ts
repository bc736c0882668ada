import type { List, Says, Size } from '../../api/channels';

/** A size as it is added. */
export const usualSize = (name: string): Size => ({ name, size: '1200', fit: 'inside', format: 'jpeg' });

/** The list that most shops take: name, alt text and main flag. */
export const usualList = (): List => ({
  name: 'list.csv',
  columns: [
    { field: 'sku', header: 'sku' },
    { field: 'file', header: 'file' },
    { field: 'position', header: 'position' },
    { field: 'main', header: 'main' },
    { field: 'alt', header: 'alt' },
  ],
});

/** A channel as it is begun. */
export const begun = (): Says => ({ path: '{sku}_{number:00}', renditions: [usualSize('large')], list: usualList() });
