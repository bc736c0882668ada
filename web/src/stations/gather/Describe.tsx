import { Autocomplete, Button, Modal, Textarea, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Delivery } from '../../api/client';
import { askDelivery } from '../../api/deliveries';
import { deliveryTouched, suppliersQuery, useAsk } from '../../api/queries';
import type { Rights } from '../../api/sources';
import { usePlanned } from '../../ui/usePlanned';
import { t } from '../../words/words';
import { RightsFields } from '../sources/Rights';

/** Gives a delivery another title, whose it is and a note, says that one is done with it, and makes the plan that removes it then. */
export function Describe({ delivery }: { delivery: Delivery }) {
  const [opened, setOpened] = useState(false);
  const describe = useAsk(
    (body: Parameters<typeof askDelivery.describe>[1]) => askDelivery.describe(delivery.id, body),
    [...deliveryTouched, ['pairing', delivery.id]],
  );
  const closed = Boolean(delivery.closedAt);
  const { busy, plan } = usePlanned();
  return (
    <>
      <button type="button" className="linkish" onClick={() => setOpened(true)}>
        {t('gather.describe')}
      </button>
      <button
        type="button"
        className="linkish"
        disabled={describe.isPending}
        onClick={() => describe.mutate({ closed: !closed })}
      >
        {t(closed ? 'gather.reopen' : 'gather.close')}
      </button>
      {closed && (
        <button
          type="button"
          className="linkish"
          disabled={busy}
          onClick={() =>
            void plan(() =>
              askDelivery.planRemoval(delivery.id, t('gather.removal', { title: delivery.title }).slice(0, 200)),
            )
          }
        >
          {t('gather.remove_closed')}
        </button>
      )}
      {opened && (
        <Form
          delivery={delivery}
          onClose={() => setOpened(false)}
          onSave={(body) => describe.mutate(body, { onSuccess: () => setOpened(false) })}
        />
      )}
    </>
  );
}

interface FormProps {
  delivery: Delivery;
  onClose: () => void;
  onSave: (said: { title: string; supplier: string; note: string; rights: Rights }) => void;
}

function Form({ delivery, onClose, onSave }: FormProps) {
  const [title, setTitle] = useState(delivery.title);
  const [supplier, setSupplier] = useState(delivery.supplier ?? '');
  const [note, setNote] = useState(delivery.note ?? '');
  const [rights, setRights] = useState<Rights>(delivery.rights ?? { may: '' });
  const suppliers = useQuery(suppliersQuery).data ?? [];
  return (
    <Modal
      opened
      onClose={onClose}
      title={t('gather.describe_title')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="formstack"
        onSubmit={(event) => {
          event.preventDefault();
          onSave({ title, supplier, note, rights });
        }}
      >
        <TextInput
          label={t('gather.title')}
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
          maxLength={200}
          required
          data-autofocus
        />
        <Autocomplete
          label={t('gather.supplier')}
          data={suppliers}
          value={supplier}
          onChange={setSupplier}
          maxLength={200}
        />
        <RightsFields rights={rights} onChange={setRights} />
        <Textarea
          label={t('gather.note')}
          value={note}
          onChange={(e) => setNote(e.currentTarget.value)}
          maxLength={4000}
          autosize
          minRows={2}
          maxRows={8}
        />
        <div className="row answers">
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go">
            {t('gather.save')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
