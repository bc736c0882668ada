import { Button, Checkbox, Modal, MultiSelect, NumberInput, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askChannel, type Channel, channelTouched, type Says } from '../../api/channels';
import { categoriesQuery, useAskOnce } from '../../api/queries';
import { sourcesQuery } from '../../api/sources';
import { t } from '../../words/words';
import { ListFields } from './ListFields';
import { SizeFields } from './SizeFields';
import { begun } from './usual';

const RULES = ['clearedOnly', 'needsAlt', 'removes', 'differByCase'] as const;

interface Props {
  channel?: Channel;
  onClose: () => void;
  onKept: (id: number) => void;
}

/** Makes a channel, or changes one: where to, how files are called and made, the list, what is held. */
export function ChannelForm({ channel, onClose, onKept }: Props) {
  const [name, setName] = useState(channel?.name ?? '');
  const [says, setSays] = useState<Says>(() => channel?.says ?? begun());
  const drives = (useQuery(sourcesQuery).data ?? []).filter((s) => s.kind === 'drive');
  const categories = useQuery(categoriesQuery).data ?? [];
  const set = (part: Partial<Says>) => setSays((now) => ({ ...now, ...part }));
  const keep = useAskOnce(async () => {
    const body = { name: name.trim(), says };
    if (!channel) return (await askChannel.add(body)).id;
    await askChannel.set(channel.id, body);
    return channel.id;
  }, channelTouched);
  return (
    <Modal
      opened
      size="xl"
      onClose={onClose}
      title={t(channel ? 'publish.edit_title' : 'publish.add_title')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="formstack channelform"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(undefined, { onSuccess: onKept });
        }}
      >
        <TextInput
          label={t('publish.name')}
          value={name}
          maxLength={200}
          required
          data-autofocus
          onChange={(e) => setName(e.currentTarget.value)}
        />
        <div className="fields">
          <Select
            label={t('publish.where')}
            data={[
              { value: '0', label: t('publish.to_package') },
              ...drives.map((d) => ({ value: String(d.id), label: d.name })),
            ]}
            value={String(says.source ?? 0)}
            allowDeselect={false}
            onChange={(v) => set({ source: Number(v) || undefined })}
          />
          {says.source ? (
            <TextInput
              label={t('publish.folder')}
              value={says.folder ?? ''}
              maxLength={500}
              onChange={(e) => set({ folder: e.currentTarget.value })}
            />
          ) : null}
          <MultiSelect
            label={t('publish.categories')}
            placeholder={says.categories?.length ? undefined : t('publish.categories_all')}
            data={categories.map((c) => ({ value: String(c.id), label: c.title }))}
            value={(says.categories ?? []).map(String)}
            searchable
            onChange={(all) => set({ categories: all.map(Number) })}
          />
        </div>
        <TextInput
          label={t('publish.pattern')}
          description={t('publish.pattern_what')}
          className="monofield"
          value={says.path}
          maxLength={1000}
          required
          onChange={(e) => set({ path: e.currentTarget.value })}
        />
        <SizeFields sizes={says.renditions} onChange={(renditions) => set({ renditions })} />
        <ListFields list={says.list} sizes={says.renditions} onChange={(list) => set({ list })} />
        <fieldset>
          <legend>{t('publish.rules')}</legend>
          <NumberInput
            hideControls
            label={t('publish.least')}
            value={says.least ?? 0}
            min={0}
            allowDecimal={false}
            onChange={(n) => set({ least: Number(n) || 0 })}
          />
          {RULES.filter((r) => says.source || r !== 'differByCase').map((r) => (
            <Checkbox
              key={r}
              mt="xs"
              label={t(`publish.rule_${r}`)}
              checked={says[r] ?? false}
              onChange={(e) => set({ [r]: e.currentTarget.checked })}
            />
          ))}
        </fieldset>
        <div className="row answers">
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go" loading={keep.isPending}>
            {t('publish.save')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
