import { Checkbox, NumberInput, PasswordInput, TextInput } from '@mantine/core';
import type { NewSource } from '../../api/sources';
import { t } from '../../words/words';

interface Props {
  of: NewSource;
  set: (part: Partial<NewSource>) => void;
  /** Whether a key is kept already. */
  kept: boolean;
}

/** How a barcode service is asked, and where in its answer the pictures stand. */
export function LookupFields({ of, set, kept }: Props) {
  const lookup = of.settings?.lookup ?? { address: '', pictures: '' };
  const put = (part: Partial<typeof lookup>) => set({ settings: { ...of.settings, lookup: { ...lookup, ...part } } });
  return (
    <div className="formstack">
      <TextInput
        label={t('sources.lookup_address')}
        description={t('sources.lookup_address_what')}
        placeholder="https://service.example/v1/{gtin}"
        classNames={{ input: 'mono' }}
        required
        value={lookup.address}
        onChange={(e) => put({ address: e.currentTarget.value })}
      />
      <div className="fields">
        <TextInput
          label={t('sources.lookup_header')}
          placeholder="Authorization"
          value={lookup.header ?? ''}
          onChange={(e) => put({ header: e.currentTarget.value })}
        />
        <PasswordInput
          label={t('sources.lookup_key')}
          placeholder={kept ? t('sources.secret_kept') : undefined}
          autoComplete="off"
          onChange={(e) => set({ secrets: { key: e.currentTarget.value } })}
        />
        <NumberInput
          hideControls
          label={t('sources.lookup_a_day')}
          min={0}
          value={lookup.aDay || ''}
          onChange={(n) => put({ aDay: Number(n) || undefined })}
        />
      </div>
      <p className="soft">{t('sources.lookup_paths')}</p>
      <div className="fields">
        <TextInput
          label={t('sources.lookup_pictures')}
          placeholder="$.items[*].photos[*].href"
          classNames={{ input: 'mono' }}
          required
          value={lookup.pictures}
          onChange={(e) => put({ pictures: e.currentTarget.value })}
        />
        <TextInput
          label={t('sources.lookup_title')}
          placeholder="$.items[0].name"
          classNames={{ input: 'mono' }}
          value={lookup.title ?? ''}
          onChange={(e) => put({ title: e.currentTarget.value })}
        />
        <TextInput
          label={t('sources.lookup_licence')}
          placeholder="$.items[0].licence"
          classNames={{ input: 'mono' }}
          value={lookup.licence ?? ''}
          onChange={(e) => put({ licence: e.currentTarget.value })}
        />
      </div>
      <Checkbox
        label={t('sources.lookup_house')}
        checked={lookup.houseCodes ?? false}
        onChange={(e) => put({ houseCodes: e.currentTarget.checked })}
      />
    </div>
  );
}
