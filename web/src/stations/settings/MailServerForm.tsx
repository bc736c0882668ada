import { Button, NumberInput, PasswordInput, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askMail, type MailServer, mailTouched, serverQuery } from '../../api/messages';
import { useAsk } from '../../api/queries';
import { say } from '../../ui/complain';
import { t } from '../../words/words';

const WAYS = { starttls: 'STARTTLS', tls: 'TLS' } as const;

/** The house's mail server, for admins. */
export function MailServerForm() {
  const was = useQuery(serverQuery).data;
  return was ? <Form key={`${was.host} ${was.port} ${was.kept}`} was={was} /> : null;
}

function Form({ was }: { was: MailServer }) {
  const [of, setOf] = useState<MailServer>({ ...was, port: was.port || 587, security: was.security || 'starttls' });
  const set = (part: Partial<MailServer>) => setOf((now) => ({ ...now, ...part }));
  const keep = useAsk(askMail.server, mailTouched);
  const attempt = useAsk(askMail.attempt, []);
  return (
    <section>
      <h2>{t('settings.server')}</h2>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          const { kept, ...body } = of;
          keep.mutate(body, { onSuccess: () => say(t('settings.server_kept')) });
        }}
      >
        <TextInput
          label={t('settings.server_host')}
          value={of.host}
          maxLength={253}
          required
          onChange={(e) => set({ host: e.currentTarget.value })}
        />
        <NumberInput
          hideControls
          label={t('settings.server_port')}
          value={of.port}
          min={1}
          max={65535}
          onChange={(n) => set({ port: Number(n) || 0 })}
        />
        <Select
          label={t('settings.server_security')}
          data={[
            ...Object.entries(WAYS).map(([value, label]) => ({ value, label })),
            { value: 'none', label: t('settings.server_none') },
          ]}
          value={of.security}
          allowDeselect={false}
          onChange={(v) => set({ security: (v ?? 'starttls') as MailServer['security'] })}
        />
        <TextInput
          type="email"
          label={t('settings.server_from')}
          value={of.from}
          maxLength={254}
          required
          onChange={(e) => set({ from: e.currentTarget.value })}
        />
        <TextInput
          label={t('settings.server_user')}
          value={of.user ?? ''}
          maxLength={254}
          autoComplete="off"
          onChange={(e) => set({ user: e.currentTarget.value })}
        />
        <PasswordInput
          label={t('settings.server_secret')}
          placeholder={was.kept ? t('settings.server_secret_kept') : undefined}
          value={of.secret ?? ''}
          maxLength={200}
          autoComplete="off"
          onChange={(e) => set({ secret: e.currentTarget.value })}
        />
        <Button type="submit" loading={keep.isPending}>
          {t('settings.save')}
        </Button>
        <Button
          loading={attempt.isPending}
          disabled={!was.host}
          onClick={() => attempt.mutate(undefined, { onSuccess: () => say(t('settings.tried')) })}
        >
          {t('settings.try')}
        </Button>
      </form>
    </section>
  );
}
