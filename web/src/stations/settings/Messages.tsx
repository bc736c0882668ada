import { Button, SegmentedControl, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askMail, type MailWish, mailQuery, mailTouched, type Outgoing } from '../../api/messages';
import { useAsk } from '../../api/queries';
import { say } from '../../ui/complain';
import { when } from '../../ui/format';
import { useMayAdmin } from '../../ui/mayAdmin';
import { t } from '../../words/words';
import { MailServerForm } from './MailServerForm';
import { Webhooks } from './Webhooks';

const TELLS = ['never', 'trouble', 'always'] as const;

/** How one is told of what ended; for admins the mail server and the programs that are told. */
export function Messages() {
  const mail = useQuery(mailQuery).data;
  const admin = useMayAdmin();
  return (
    <>
      {mail && <Wish key={`${mail.address} ${mail.tells}`} was={mail} last={mail.last} />}
      {admin && <MailServerForm />}
      {admin && <Webhooks />}
    </>
  );
}

function Wish({ was, last }: { was: MailWish; last: Outgoing[] }) {
  const [address, setAddress] = useState(was.address);
  const [tells, setTells] = useState(was.tells);
  const keep = useAsk(askMail.wish, mailTouched);
  return (
    <section>
      <h2 id="messages">{t('settings.mail')}</h2>
      <p className="soft">{t('settings.mail_what')}</p>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate({ address, tells }, { onSuccess: () => say(t('settings.mail_kept')) });
        }}
      >
        <TextInput
          type="email"
          label={t('settings.mail_address')}
          value={address}
          maxLength={254}
          onChange={(e) => setAddress(e.currentTarget.value)}
        />
        <SegmentedControl
          aria-labelledby="messages"
          value={tells}
          onChange={(v) => setTells(v as MailWish['tells'])}
          data={TELLS.map((value) => ({ value, label: t(`settings.mail_${value}`) }))}
        />
        <Button type="submit" loading={keep.isPending}>
          {t('settings.save')}
        </Button>
      </form>
      <Sent last={last} />
    </section>
  );
}

/** What was to be sent last, and what went wrong. */
export function Sent({ last }: { last: Outgoing[] }) {
  if (last.length === 0) return null;
  return (
    <details>
      <summary>{t('settings.sent_last', { count: last.length })}</summary>
      <ul className="plain">
        {last.map((o) => (
          <li key={o.id}>
            {o.title} <span className="soft">{when(o.at)}</span>{' '}
            {o.sentAt ? (
              t('settings.sent')
            ) : (
              <span className="wrong">
                {t(o.ended ? 'settings.sent_given_up' : o.trouble ? 'settings.sent_again' : 'settings.sent_soon', {
                  when: when(o.nextAt),
                })}{' '}
                {o.trouble}
              </span>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}
