import type { Line, Owner } from '../../api/client';
import { copy } from '../../ui/copy';
import { baseName } from '../../ui/format';
import { named, t } from '../../words/words';

/** Copies lines: of one its SKU, or its name where it has no owner; of several a table, its cells apart by tabs. */
export async function copyLines(lines: Line[], owners: Map<number, Owner>) {
  const [first] = lines;
  if (!first) return;
  const sku = (l: Line) => owners.get(l.owner ?? 0)?.sku ?? '';
  const cell = (text: string | number | undefined) => String(text ?? '').replace(/[\t\r\n]+/g, ' ');
  const table = [
    [t('column.file'), t('column.state'), t('column.owner'), t('column.title'), t('column.place')],
    ...lines.map((l) => [l.path, named(`grade.${l.grade}`), sku(l), owners.get(l.owner ?? 0)?.label, l.place]),
  ];
  if (lines.length === 1) await copy(sku(first) || baseName(first.path));
  else
    await copy(
      table.map((row) => row.map(cell).join('\t')).join('\n'),
      t('pair.copied_lines', { count: lines.length }),
    );
}
