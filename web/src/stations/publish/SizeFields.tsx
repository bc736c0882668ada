import { Button, ColorInput, NumberInput, Select, TextInput } from '@mantine/core';
import type { Size } from '../../api/channels';
import { named, t } from '../../words/words';
import { usualSize } from './usual';

const FITS = ['inside', 'crop', 'pad'] as const;
const FORMATS = ['jpeg', 'webp', 'avif', 'png'] as const;
const KEEPS = ['', 'rights', 'all'] as const;
const MOST = 12;

/** The sizes that are made of each picture: how large, in which shape and format, how good or how many bytes. */
export function SizeFields({ sizes, onChange }: { sizes: Size[]; onChange: (sizes: Size[]) => void }) {
  const set = (at: number, part: Partial<Size>) => onChange(sizes.map((s, i) => (i === at ? { ...s, ...part } : s)));
  return (
    <fieldset>
      <legend>{t('publish.sizes')}</legend>
      {sizes.map((s, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a size has no name of its own while it is typed
        <div key={at} className="fields sizeline">
          <TextInput
            label={t('publish.size_name')}
            value={s.name}
            maxLength={40}
            required
            onChange={(e) => set(at, { name: e.currentTarget.value })}
          />
          <TextInput
            label={t('publish.size_size')}
            placeholder="1200"
            value={s.size}
            maxLength={11}
            required
            onChange={(e) => set(at, { size: e.currentTarget.value })}
          />
          <Select
            label={t('publish.size_fit')}
            data={FITS.map((value) => ({ value, label: t(`publish.fit_${value}`) }))}
            value={s.fit}
            allowDeselect={false}
            onChange={(v) => set(at, { fit: v ?? 'inside' })}
          />
          <Select
            label={t('publish.size_format')}
            data={FORMATS.map((value) => ({ value, label: value.toUpperCase() }))}
            value={s.format}
            allowDeselect={false}
            onChange={(v) => set(at, { format: v ?? 'jpeg', ...(v === 'png' ? { quality: undefined } : {}) })}
          />
          {s.format !== 'png' && (
            <NumberInput
              hideControls
              label={t('publish.size_quality')}
              placeholder="82"
              min={1}
              max={100}
              disabled={!!s.mostBytes}
              value={s.quality ?? ''}
              onChange={(n) => set(at, { quality: Number(n) || undefined })}
            />
          )}
          <NumberInput
            hideControls
            label={t('publish.size_bytes')}
            min={0}
            disabled={!!s.quality}
            value={s.mostBytes ?? ''}
            onChange={(n) => set(at, { mostBytes: Number(n) || undefined })}
          />
          <ColorInput
            label={t('publish.size_background')}
            withEyeDropper={false}
            value={s.background || '#ffffff'}
            onChange={(v) => set(at, { background: v })}
          />
          <Select
            label={t('publish.size_keep')}
            data={KEEPS.map((value) => ({ value, label: named(`publish.keep_${value || 'none'}`) }))}
            value={s.keep ?? ''}
            allowDeselect={false}
            onChange={(v) => set(at, { keep: v || undefined })}
          />
          {sizes.length > 1 && (
            <Button onClick={() => onChange(sizes.filter((_, i) => i !== at))}>{t('publish.size_remove')}</Button>
          )}
        </div>
      ))}
      {sizes.length < MOST && (
        <Button size="compact-sm" onClick={() => onChange([...sizes, usualSize(`size${sizes.length + 1}`)])}>
          {t('publish.size_add')}
        </Button>
      )}
    </fieldset>
  );
}
