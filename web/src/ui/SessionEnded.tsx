import { Modal } from '@mantine/core';
import type { Session } from '../api/client';
import { SignInForm } from '../stations/signin/SignIn';
import { t } from '../words/words';

/** Over the page whose session ran out: signing in again goes on where one was. */
export function SessionEnded({ person, onSignedIn }: { person: Session; onSignedIn: (session: Session) => void }) {
  return (
    <Modal
      opened
      onClose={() => {}}
      title={t('page.ended')}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
    >
      <p>{t('page.ended_do')}</p>
      <SignInForm known={person.name} onSignedIn={onSignedIn} />
    </Modal>
  );
}
