import { Autocomplete, Button, Modal, NumberInput, SegmentedControl, Select, Textarea, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askPages } from '../../api/guides';
import { suppliersQuery, useAskOnce } from '../../api/queries';
import { askSource, type NewSource, type Source, sourceTouched } from '../../api/sources';
import { say } from '../../ui/complain';
import { named, t } from '../../words/words';
import { DriveFields } from './DriveFields';
import { LookupFields } from './LookupFields';
import { RemoveSource } from './RemoveSource';
import { RightsFields } from './Rights';

const KINDS = ['drive', 'drop', 'addresses', 'pages', 'lookup', 'upload'] as const;

interface Props {
  source?: Source;
  onClose: () => void;
  onKept?: (id: number) => void;
}

/** Bytes in a GiB. */
const GiB = 2 ** 30;

/** Names a source, or changes one: where it is, which files are wanted, whose they are and what they may be used for. */
export function SourceForm({ source, onClose, onKept }: Props) {
  const [of, setOf] = useState<NewSource>(() => begun(source));
  const [list, setList] = useState('');
  const [start, setStart] = useState('');
  const suppliers = useQuery(suppliersQuery).data ?? [];
  const set = (part: Partial<NewSource>) => setOf((now) => ({ ...now, ...part }));
  const settings = of.settings ?? {};
  const filters = of.filters ?? {};
  const keep = useAskOnce(async () => {
    const id = source ? source.id : (await askSource.add(of)).id;
    if (source) await askSource.set(id, of);
    if (of.kind === 'pages' && start.trim()) await askPages.keep(id, { form: 1, start: [start.trim()] });
    if (of.kind === 'addresses' && list.trim()) {
      const { kept, wrong } = await askSource.addresses(id, list);
      say(t('sources.addresses_kept', { count: kept, wrong }));
    }
    return id;
  }, sourceTouched);
  return (
    <Modal
      opened
      size="lg"
      onClose={onClose}
      title={t(source ? 'sources.edit_title' : 'sources.add_title')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="formstack"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(undefined, {
            onSuccess: (id) => {
              onClose();
              onKept?.(id);
            },
          });
        }}
      >
        {!source && (
          <SegmentedControl
            aria-label={t('sources.kind')}
            data={KINDS.map((value) => ({ value, label: named(`sources.kind_${value}`) }))}
            value={of.kind}
            onChange={(kind) => set({ kind: kind as NewSource['kind'] })}
          />
        )}
        <p className="soft">{named(`sources.about_${of.kind}`)}</p>
        <TextInput
          label={t('sources.name')}
          value={of.name}
          maxLength={200}
          required
          data-autofocus
          onChange={(e) => set({ name: e.currentTarget.value })}
        />
        {of.kind === 'drive' && <DriveFields of={of} set={set} kept={Boolean(source?.secret)} />}
        {of.kind === 'drop' && (
          <div className="row two-fields">
            <TextInput
              label={t('sources.login')}
              description={t('sources.login_what')}
              value={settings.login ?? ''}
              required
              pattern="[a-z0-9][a-z0-9\-]{0,62}"
              onChange={(e) => set({ settings: { ...settings, login: e.currentTarget.value } })}
            />
            <NumberInput
              hideControls
              label={t('sources.quiet')}
              description={t('sources.quiet_what')}
              min={1}
              max={86400}
              value={settings.quiet || 30}
              onChange={(n) => set({ settings: { ...settings, quiet: Number(n) || 30 } })}
            />
            <NumberInput
              hideControls
              label={t('sources.quota')}
              description={t('sources.quota_what')}
              min={1}
              max={100000}
              value={Math.ceil((settings.quota || 50 * GiB) / GiB)}
              onChange={(n) => set({ settings: { ...settings, quota: (Number(n) || 50) * GiB } })}
            />
          </div>
        )}
        {of.kind === 'pages' && !source && (
          <TextInput
            type="url"
            label={t('sources.start')}
            description={t('sources.start_what')}
            placeholder="https://"
            value={start}
            required
            onChange={(e) => setStart(e.currentTarget.value)}
          />
        )}
        {of.kind === 'lookup' && <LookupFields of={of} set={set} kept={Boolean(source?.secret)} />}
        {of.kind === 'addresses' && (
          <Textarea
            label={t(source ? 'sources.new_list' : 'sources.list')}
            description={t('sources.list_what')}
            value={list}
            autosize
            minRows={4}
            maxRows={10}
            required={!source}
            classNames={{ input: 'mono' }}
            onChange={(e) => setList(e.currentTarget.value)}
          />
        )}
        <Autocomplete
          label={t('sources.supplier')}
          data={suppliers}
          value={of.supplier ?? ''}
          maxLength={200}
          onChange={(supplier) => set({ supplier })}
        />
        <RightsFields rights={of.rights ?? { may: '' }} onChange={(rights) => set({ rights })} />
        {of.kind !== 'upload' && of.kind !== 'pages' && of.kind !== 'lookup' && (
          <Select
            label={t('sources.tables')}
            description={t('sources.tables_what')}
            data={['', 'plan', 'apply'].map((value) => ({ value, label: named(`sources.tables_${value || 'leave'}`) }))}
            value={settings.tables ?? ''}
            allowDeselect={false}
            onChange={(tables) => set({ settings: { ...settings, tables: (tables ?? '') as typeof settings.tables } })}
          />
        )}
        {of.kind === 'drive' && (
          <details>
            <summary>{t('sources.filters')}</summary>
            <div className="formstack">
              <TextInput
                label={t('sources.names')}
                description={t('sources.names_what')}
                value={filters.names ?? ''}
                onChange={(e) => set({ filters: { ...filters, names: e.currentTarget.value } })}
              />
              <div className="row two-fields">
                <TextInput
                  label={t('sources.types')}
                  placeholder="jpg, png"
                  value={(filters.types ?? []).join(', ')}
                  onChange={(e) => set({ filters: { ...filters, types: e.currentTarget.value.split(/[,\s]+/) } })}
                />
                <NumberInput
                  hideControls
                  label={t('sources.least')}
                  min={0}
                  max={100000}
                  value={filters.least || ''}
                  onChange={(n) => set({ filters: { ...filters, least: Number(n) || 0 } })}
                />
                <TextInput
                  type="date"
                  label={t('sources.newer')}
                  value={filters.newer ?? ''}
                  onChange={(e) => set({ filters: { ...filters, newer: e.currentTarget.value } })}
                />
                <NumberInput
                  hideControls
                  label={t('sources.connections')}
                  min={1}
                  max={16}
                  value={settings.connections || 4}
                  onChange={(n) => set({ settings: { ...settings, connections: Number(n) || 4 } })}
                />
              </div>
            </div>
          </details>
        )}
        {keep.error && (
          <p className="wrong" role="alert">
            {keep.error.message}
          </p>
        )}
        <div className="row answers">
          {source && <RemoveSource source={source} />}
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go" loading={keep.isPending}>
            {t(source ? 'sources.save' : 'sources.do_add')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

/** The form as it begins: a source as it is kept, or an empty one. */
function begun(source?: Source): NewSource {
  if (!source)
    return {
      name: '',
      kind: 'drive',
      settings: { protocol: 'webdav' },
      filters: {},
      rights: { may: '' },
      supplier: '',
    };
  const { name, kind, settings, filters, supplier, rights } = source;
  return { name, kind, settings, filters, supplier, rights };
}
