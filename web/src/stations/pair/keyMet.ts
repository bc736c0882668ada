import type { Line, Owner } from '../../api/client';

/** The key that was met, as the catalogue has it, with what of it was met; the SKU where none was. */
export function keyMet(line: Line, owner: Owner): { text: string; spans?: number[][] } {
  return { text: line.keyText || owner.sku || owner.label, spans: line.keySpan && [line.keySpan] };
}
