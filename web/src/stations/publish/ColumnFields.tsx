import { ActionIcon, Button, Select, TextInput } from '@mantine/core';
import type { ListColumn, Size } from '../../api/channels';
import { named, t } from '../../words/words';

const FIELDS = [
  'sku',
  'parent',
  'barcode',
  'code',
  'title',
  'kind',
  'file',
  'main_file',
  'other_files',
  'address',
  'main_address',
  'other_addresses',
  'position',
  'main',
  'alt',
  'main_alt',
  'width',
  'height',
  'sha256',
  'text',
];
const SIZED = /file|address/;

interface Props {
  columns: ListColumn[];
  sizes: Size[];
  onChange: (columns: ListColumn[]) => void;
}

/** The list's columns in their order: the shop's header, and what stands below it. */
export function ColumnFields({ columns, sizes, onChange }: Props) {
  const set = (at: number, part: Partial<ListColumn>) =>
    onChange(columns.map((c, i) => (i === at ? { ...c, ...part } : c)));
  const move = (at: number, by: number) => {
    const next = [...columns];
    const [one] = next.splice(at, 1);
    if (one) next.splice(at + by, 0, one);
    onChange(next);
  };
  return (
    <ul className="plain listcolumns" aria-label={t('publish.list_columns')}>
      {columns.map((c, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two columns may be the same
        <li key={at} className="row">
          <TextInput
            size="xs"
            className="grow"
            aria-label={t('publish.column_header', { n: at + 1 })}
            placeholder={t('publish.column_header', { n: at + 1 })}
            value={c.header}
            maxLength={200}
            onChange={(e) => set(at, { header: e.currentTarget.value })}
          />
          <Select
            size="xs"
            className="grow"
            aria-label={t('publish.column_field', { n: at + 1 })}
            data={FIELDS.map((value) => ({ value, label: named(`publish.field_${value}`) }))}
            value={c.field || 'text'}
            allowDeselect={false}
            onChange={(v) => set(at, { field: v ?? 'text', size: undefined })}
          />
          {SIZED.test(c.field ?? '') && sizes.length > 1 && (
            <Select
              size="xs"
              aria-label={t('publish.column_size', { n: at + 1 })}
              data={sizes.map((s) => s.name).filter(Boolean)}
              value={c.size || (sizes[0]?.name ?? '')}
              allowDeselect={false}
              onChange={(v) => set(at, { size: v ?? undefined })}
            />
          )}
          {(c.field || 'text') === 'text' && (
            <TextInput
              size="xs"
              aria-label={t('publish.column_text', { n: at + 1 })}
              placeholder={t('publish.column_empty')}
              value={c.text ?? ''}
              maxLength={2000}
              onChange={(e) => set(at, { text: e.currentTarget.value })}
            />
          )}
          {([-1, 1] as const).map((by) => (
            <ActionIcon
              key={by}
              variant="subtle"
              className="quietbutton"
              aria-label={t(by < 0 ? 'publish.column_up' : 'publish.column_down', { column: c.header })}
              disabled={at + by < 0 || at + by >= columns.length}
              onClick={() => move(at, by)}
            >
              {by < 0 ? '↑' : '↓'}
            </ActionIcon>
          ))}
          <ActionIcon
            variant="subtle"
            className="quietbutton"
            aria-label={t('publish.column_remove', { column: c.header })}
            disabled={columns.length < 2}
            onClick={() => onChange(columns.filter((_, i) => i !== at))}
          >
            ×
          </ActionIcon>
        </li>
      ))}
      <li>
        <Button size="compact-sm" onClick={() => onChange([...columns, { field: 'title', header: '' }])}>
          {t('publish.column_add')}
        </Button>
      </li>
    </ul>
  );
}
