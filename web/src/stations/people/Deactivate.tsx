import { Button, Checkbox, Modal } from '@mantine/core';
import { useState } from 'react';
import { client, data, type Person } from '../../api/client';
import { useAsk } from '../../api/queries';
import { t } from '../../words/words';

interface Props {
  person: Person;
  opened: boolean;
  onClose: () => void;
  touched: readonly (readonly unknown[])[];
}

/** Asks whether a person shall sign in no more, and whether their name goes for good. */
export function Deactivate({ person: { id, name }, opened, onClose, touched }: Props) {
  const [withoutName, setWithoutName] = useState(false);
  const deactivate = useAsk(
    () => data(client.POST('/api/people/{id}/deactivate', { params: { path: { id } }, body: { withoutName } })),
    touched,
  );
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={t('people.ask', { name })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <p>{t('people.ask_what', { name })}</p>
      <Checkbox
        mt={14}
        label={t('people.without_name', { id })}
        checked={withoutName}
        onChange={(e) => setWithoutName(e.currentTarget.checked)}
      />
      <div className="row answers">
        <span className="grow" />
        <Button onClick={onClose} data-autofocus>
          {t('page.keep')}
        </Button>
        <Button
          className="go"
          onClick={() => {
            onClose();
            deactivate.mutate(undefined);
          }}
        >
          {t('people.do_deactivate')}
        </Button>
      </div>
    </Modal>
  );
}
