import { Button, Modal, TextInput } from '@mantine/core';
import { useState } from 'react';
import { t } from '../../words/words';

interface Props {
  /** How many changes are made. */
  changes: number;
  onApply: () => void;
  onClose: () => void;
}

/** Asks for the number of changes before a key applies them, as a key is pressed more easily by mistake than a button. */
export function ConfirmApply({ changes, onApply, onClose }: Props) {
  const [typed, setTyped] = useState('');
  const right = Number(typed) === changes;
  return (
    <Modal
      opened
      onClose={onClose}
      title={t('plan.apply', { count: changes })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="row"
        onSubmit={(event) => {
          event.preventDefault();
          if (right) onApply();
        }}
      >
        <TextInput
          data-autofocus
          className="grow"
          inputMode="numeric"
          label={t('plan.type_number', { n: changes })}
          value={typed}
          onChange={(e) => setTyped(e.currentTarget.value.replace(/\D/g, ''))}
        />
        <Button type="submit" className="go" disabled={!right} style={{ alignSelf: 'flex-end' }}>
          {t('plan.apply_now')}
        </Button>
      </form>
    </Modal>
  );
}
