import { named } from '../../words/words';

/** The fields that have a name of their own, in the order in which they are offered. */
export const fields = [
  'sku',
  'parent',
  'kind',
  'title',
  'barcode',
  'code',
  'category',
  'price',
  'main',
  'pictures',
  'picture',
  'position',
  'main_flag',
  'alt',
] as const;

/** What a field is called; an option or attribute by its own name. */
export function fieldName(field: string): string {
  const [kind, own] = field.split(/:(.*)/s);
  return own ? `${named(`tables.field_${kind}`)} ${own}` : named(`tables.field_${field}`) || field;
}
