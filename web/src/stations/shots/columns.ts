import { named, t } from '../../words/words';

/** A column of a picture table, as it is chosen. */
export interface Chosen {
  column: string;
  header: string;
  on: boolean;
}

const all = [
  'preview',
  'name',
  'sku',
  'title',
  'kind',
  'position',
  'main',
  'alt',
  'width',
  'height',
  'bytes',
  'type',
  'link',
  'address',
  'path',
  'delivery',
  'supplier',
  'sha256',
];
const usual = new Set(['preview', 'name', 'sku', 'position', 'alt', 'width', 'height']);

export const columnName = (column: string) => named(`shots.column_${column}`) || column;

/** The columns before somebody chose others. */
export const usualColumns = (): Chosen[] =>
  all.map((column) => ({ column, header: columnName(column), on: usual.has(column) }));

/** The columns of a preset in their order, the others behind them. */
export const fromPreset = (columns: { column: string; header?: string }[]): Chosen[] => [
  ...columns.map((c) => ({ column: c.column, header: c.header || columnName(c.column), on: true })),
  ...usualColumns()
    .filter((c) => !columns.some((other) => other.column === c.column))
    .map((c) => ({ ...c, on: false })),
];

/** The same with one column a place up or down. */
export function moved(columns: Chosen[], at: number, by: -1 | 1): Chosen[] {
  const out = [...columns];
  const [one] = out.splice(at, 1);
  if (one) out.splice(Math.max(0, Math.min(out.length, at + by)), 0, one);
  return out;
}

export const sizes = [48, 64, 96, 160, 240, 480];
export const sizeName = (side: number) => t('shots.pixels', { side });
