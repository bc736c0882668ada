import { Button, Modal, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { askHand, type OwnerFields, ownerQuery, type PicturedOwner } from '../../api/hand';
import { ask, categoriesQuery, useAskOnce } from '../../api/queries';
import { t } from '../../words/words';
import { choices } from './CatalogueRail';
import { nextNew, setFields } from './draft';
import { Named } from './Named';
import { ParentField } from './ParentField';

interface Props {
  /** The owner that is changed; none where one is made. */
  owner?: PicturedOwner;
  kind: 'product' | 'variant' | 'category';
  /** The category in which a new one stands. */
  within?: number;
  onClose: () => void;
}

/** An owner's own fields: made, changed, moved, retired. What is changed goes to the draft. */
export function OwnerForm({ owner, kind: first, within, onClose }: Props) {
  const record = useQuery(ownerQuery(owner?.id ?? 0)).data;
  const categories = useQuery(categoriesQuery).data;
  const [kind, setKind] = useState(first);
  const [fields, setNew] = useState<OwnerFields>(
    owner ? {} : kind === 'category' ? { parent: within } : { category: within },
  );
  const set = (part: OwnerFields) => setNew((now) => ({ ...now, ...part }));
  const tree = useMemo(
    () => choices((categories ?? []).filter((c) => !c.retired && c.id !== owner?.id)),
    [categories, owner],
  );
  const siblings = (categories ?? []).filter((c) => !c.retired && owner && (c.parent ?? 0) === (owner.parent ?? 0));
  const order = useAskOnce(
    async (by: number) => {
      const ids = siblings.map((c) => c.id);
      const at = ids.indexOf(owner?.id ?? 0);
      const to = Math.max(0, Math.min(ids.length - 1, at + by));
      ids.splice(to, 0, ...ids.splice(at, 1));
      return ask.apply((await askHand.order(ids)).id);
    },
    [['categories'], ['pictured'], ['runs']],
  );
  if (owner && !record) return null;
  const text = (name: 'sku' | 'title' | 'barcode' | 'code') => ({
    label: t(`hand.f_${name}`),
    value: fields[name] ?? record?.[name] ?? '',
    onChange: (e: React.ChangeEvent<HTMLInputElement>) => set({ [name]: e.currentTarget.value }),
  });
  const place = kind === 'category' ? 'parent' : 'category';
  const stands = place === 'parent' ? (fields.parent ?? record?.parent) : (fields.category ?? record?.category);
  const keep = () => {
    const label = fields.sku || fields.title || owner?.sku || owner?.label || '';
    setFields(owner?.id ?? nextNew(), label, fields, owner ? undefined : kind);
    onClose();
  };
  return (
    <Modal
      opened
      onClose={onClose}
      title={owner ? t('hand.edit_title', { owner: owner.sku || owner.label }) : t('hand.new_title')}
      size="lg"
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="formstack"
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        {!owner && kind !== 'category' && (
          <Select
            label={t('hand.kind')}
            data={[
              { value: 'product', label: t('owner.product') },
              { value: 'variant', label: t('owner.variant') },
            ]}
            value={kind}
            allowDeselect={false}
            onChange={(k) => setKind((k ?? 'product') as typeof kind)}
          />
        )}
        <TextInput {...text('title')} data-autofocus required={kind !== 'variant'} />
        {kind === 'category' ? (
          <TextInput {...text('code')} />
        ) : (
          <div className="fields">
            <TextInput {...text('sku')} required />
            <TextInput {...text('barcode')} />
          </div>
        )}
        {kind === 'variant' ? (
          <ParentField name={record?.parentName} onChange={(parent) => set({ parent })} />
        ) : (
          <Select
            label={t(kind === 'category' ? 'hand.f_above' : 'hand.f_category')}
            data={[{ value: '0', label: t('hand.f_top') }, ...tree]}
            value={String(stands ?? 0)}
            searchable
            allowDeselect={false}
            onChange={(c) => set({ [place]: Number(c) })}
          />
        )}
        {kind === 'variant' && (
          <Named
            label={t('hand.f_options')}
            was={record?.options}
            now={fields.options}
            onChange={(options) => set({ options })}
          />
        )}
        <Named
          label={t('hand.f_titles')}
          was={record?.titles}
          now={fields.titles}
          onChange={(titles) => set({ titles })}
        />
        {kind !== 'category' && (
          <Named
            label={t('hand.f_attributes')}
            was={record?.attributes}
            now={fields.attributes}
            onChange={(attributes) => set({ attributes })}
          />
        )}
        <div className="row answers">
          {owner && (
            <Button
              variant="subtle"
              className="quietbutton"
              onClick={() => {
                setFields(owner.id, owner.sku || owner.label, { retired: !owner.retired });
                onClose();
              }}
            >
              {t(owner.retired ? 'hand.unretire' : 'hand.retire')}
            </Button>
          )}
          {owner && kind === 'category' && (
            <>
              <Button
                variant="subtle"
                className="quietbutton"
                loading={order.isPending}
                onClick={() => order.mutate(-1)}
              >
                {t('hand.up')}
              </Button>
              <Button
                variant="subtle"
                className="quietbutton"
                loading={order.isPending}
                onClick={() => order.mutate(1)}
              >
                {t('hand.down')}
              </Button>
            </>
          )}
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go">
            {t('hand.to_draft')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
