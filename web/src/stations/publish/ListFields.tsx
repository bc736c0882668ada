import { Button, Checkbox, FileButton, Select, TextInput } from '@mantine/core';
import { askChannel, type List, type Size } from '../../api/channels';
import { useAskOnce } from '../../api/queries';
import { t } from '../../words/words';
import { ColumnFields } from './ColumnFields';
import { SavedLists } from './SavedLists';
import { usualList } from './usual';

const SEPARATORS = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'bar' } as const;
const ENCODINGS = ['utf-8', 'utf-8-bom', 'windows-1252', 'utf-16'];

/** A list of another channel, without the sizes that are not here: those columns take the first. */
const sized = (l: List, sizes: Size[]): List => ({
  ...l,
  columns: l.columns.map((c) => (sizes.some((s) => s.name === c.size) ? c : { ...c, size: undefined })),
});

interface Props {
  list?: List;
  sizes: Size[];
  onChange: (list?: List) => void;
}

/** The list that goes with the pictures: its columns, how it is written, or all of that from an example of the shop's table. */
export function ListFields({ list, sizes, onChange }: Props) {
  const read = useAskOnce(askChannel.example, []);
  const set = (part: Partial<List>) => list && onChange({ ...list, ...part });
  return (
    <fieldset>
      <legend>{t('publish.list')}</legend>
      <div className="row">
        <Checkbox
          className="grow"
          label={t('publish.list_with')}
          checked={list !== undefined}
          onChange={(e) => onChange(e.currentTarget.checked ? usualList() : undefined)}
        />
        <SavedLists list={list} onUse={(l) => onChange(sized(l, sizes))} />
        <FileButton
          accept=".csv,.tsv,.txt,.xlsx,.ods"
          onChange={(file) => file && read.mutate(file, { onSuccess: onChange })}
        >
          {(props) => (
            <Button size="compact-sm" loading={read.isPending} {...props}>
              {t('publish.list_example')}
            </Button>
          )}
        </FileButton>
      </div>
      {list && (
        <>
          <div className="fields">
            <TextInput
              label={t('publish.list_name')}
              value={list.name}
              maxLength={200}
              required
              onChange={(e) => set({ name: e.currentTarget.value })}
            />
            <Select
              label={t('publish.list_rows')}
              data={[
                { value: '', label: t('publish.list_per_picture') },
                { value: 'owner', label: t('publish.list_per_owner') },
              ]}
              value={list.perOwner ? 'owner' : ''}
              allowDeselect={false}
              onChange={(v) => set({ perOwner: v === 'owner' })}
            />
            {list.name.toLowerCase().endsWith('.csv') && (
              <>
                <Select
                  label={t('publish.list_separator')}
                  data={Object.entries(SEPARATORS).map(([value, word]) => ({
                    value,
                    label: t(`publish.separator_${word}`),
                  }))}
                  value={list.separator || ','}
                  allowDeselect={false}
                  onChange={(v) => set({ separator: v ?? ',' })}
                />
                <Select
                  label={t('publish.list_encoding')}
                  data={ENCODINGS}
                  value={list.encoding || 'utf-8'}
                  allowDeselect={false}
                  onChange={(v) => set({ encoding: v ?? 'utf-8' })}
                />
                <Select
                  label={t('publish.list_line_end')}
                  data={[
                    { value: 'crlf', label: 'CR LF' },
                    { value: 'lf', label: 'LF' },
                  ]}
                  value={list.lineEnd || 'crlf'}
                  allowDeselect={false}
                  onChange={(v) => set({ lineEnd: v ?? 'crlf' })}
                />
              </>
            )}
            {(['yes', 'no', 'between'] as const).map((f) => (
              <TextInput
                key={f}
                label={t(`publish.list_${f}`)}
                placeholder={f === 'yes' ? '1' : f === 'between' ? '|' : ''}
                value={list[f] ?? ''}
                maxLength={f === 'between' ? 10 : 40}
                onChange={(e) => set({ [f]: e.currentTarget.value })}
              />
            ))}
          </div>
          <Checkbox
            label={t('publish.list_no_variant_alt')}
            checked={list.noVariantAlt ?? false}
            onChange={(e) => set({ noVariantAlt: e.currentTarget.checked })}
          />
          <ColumnFields columns={list.columns} sizes={sizes} onChange={(columns) => set({ columns })} />
        </>
      )}
    </fieldset>
  );
}
