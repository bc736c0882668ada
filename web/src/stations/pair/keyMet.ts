import type { Line, Owner } from '../../api/client';

/** The key that was met, as the catalogue has it, with what of it was met; the SKU where none was. */
export function keyMet(line: Line, owner: Owner): { text: string; span?: number[] } {
  return line.keyText ? { text: line.keyText, span: line.keySpan } : { text: owner.sku || owner.label };
}
