import type { Line, Owner } from '../../api/client';

/** The key that was met, as the catalogue has it, with what of it was met. */
export function keyMet(line: Line, owner: Owner): { text: string; span?: number[] } {
  if (line.key === 'barcode') return { text: owner.barcode ?? owner.sku, span: line.keySpan };
  return { text: owner.sku, span: line.key === 'sku' ? line.keySpan : undefined };
}
