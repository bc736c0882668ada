import { Button, Modal, Select, Textarea } from '@mantine/core';
import { useState } from 'react';
import type { Found } from '../../api/client';
import type { PictureAct } from '../../api/gallery';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { t } from '../../words/words';
import { ruleName, rules } from '../pair/rules';

interface Props {
  ids: number[];
  onPlan: (act: PictureAct) => void;
  onClose: () => void;
}

/** Puts pictures on owners: found one by one, or pasted as SKUs. */
export function PlaceForm({ ids, onPlan, onClose }: Props) {
  const [owners, setOwners] = useState<Found[]>([]);
  const [skus, setSKUs] = useState('');
  const [rule, setRule] = useState<string>('add_after');
  const [searching, setSearching] = useState(false);
  const pasted = skus.split(/[\s,;]+/).filter(Boolean);
  return (
    <Modal
      opened
      onClose={onClose}
      title={t('pictures.place_title', { count: ids.length })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <ul className="plain">
        {owners.map((o) => (
          <li key={o.id} className="row">
            <span className="grow">
              <span className="mono">{o.sku}</span> {o.label}
            </span>
            <Button size="compact-xs" onClick={() => setOwners(owners.filter((x) => x.id !== o.id))}>
              {t('pictures.take_out')}
            </Button>
          </li>
        ))}
      </ul>
      <Button onClick={() => setSearching(true)}>{t('pictures.find_owner')}</Button>
      <Textarea
        label={t('pictures.paste_skus')}
        value={skus}
        autosize
        minRows={2}
        maxRows={8}
        onChange={(e) => setSKUs(e.currentTarget.value)}
      />
      <Select
        label={t('pictures.where_some')}
        data={rules.map((value) => ({ value, label: ruleName(value) }))}
        value={rule}
        allowDeselect={false}
        onChange={(r) => setRule(r ?? 'add_after')}
      />
      <div className="row answers">
        <Button onClick={onClose}>{t('page.keep')}</Button>
        <Button
          className="go"
          disabled={owners.length + pasted.length === 0}
          onClick={() =>
            onPlan({
              act: 'place',
              pictures: ids,
              owners: owners.map((o) => o.id),
              skus: pasted,
              rule: rule as PictureAct['rule'],
              title: t('pictures.plan_place', { count: ids.length }),
            })
          }
        >
          {t('pictures.show_plan')}
        </Button>
      </div>
      {searching && (
        <OwnerSearch
          opened
          title={t('pictures.find_owner')}
          onClose={() => setSearching(false)}
          onPick={(o) => {
            setSearching(false);
            setOwners((was) => (was.some((x) => x.id === o.id) ? was : [...was, o]));
          }}
        />
      )}
    </Modal>
  );
}
