import { Button, Input } from '@mantine/core';
import { useState } from 'react';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { t } from '../../words/words';

/** Which product a variant is of. */
export function ParentField({ name, onChange }: { name?: string; onChange: (id: number) => void }) {
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState(name);
  return (
    <Input.Wrapper label={t('hand.f_product')} labelElement="div">
      <div className="row">
        <span className="mono grow">{chosen || t('hand.f_none')}</span>
        <Button onClick={() => setOpen(true)}>{t('hand.f_choose')}</Button>
      </div>
      <OwnerSearch
        opened={open}
        title={t('hand.f_product')}
        onClose={() => setOpen(false)}
        onPick={(o) => {
          setOpen(false);
          setChosen(o.sku);
          onChange(o.id);
        }}
      />
    </Input.Wrapper>
  );
}
