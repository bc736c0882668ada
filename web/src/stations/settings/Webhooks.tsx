import { Button, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askMail, mailTouched, type Webhook, webhooksQuery } from '../../api/messages';
import { useAsk } from '../../api/queries';
import { t } from '../../words/words';
import { Sent } from './Messages';

const begun: Webhook = { address: '', secret: '', tells: 'trouble' };

/** Programs that are told of what ended, for admins. */
export function Webhooks() {
  const all = useQuery(webhooksQuery).data;
  const [of, setOf] = useState<Webhook>(begun);
  const set = (part: Partial<Webhook>) => setOf((now) => ({ ...now, ...part }));
  const add = useAsk(askMail.addWebhook, mailTouched);
  const remove = useAsk(askMail.removeWebhook, mailTouched);
  return (
    <section>
      <h2>{t('settings.hooks')}</h2>
      <p className="soft">{t('settings.hooks_what')}</p>
      <ul className="plain tokens">
        {all?.webhooks.map((w) => (
          <li key={w.id} className="row">
            <span className="grow mono">{w.address}</span>
            <span className="soft">{t(`settings.mail_${w.tells}`)}</span>
            <Button
              size="xs"
              aria-label={t('settings.hook_remove_of', { address: w.address })}
              onClick={() => remove.mutate(w.id)}
            >
              {t('settings.hook_remove')}
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(of, { onSuccess: () => setOf(begun) });
        }}
      >
        <TextInput
          type="url"
          label={t('settings.hook_address')}
          value={of.address}
          maxLength={2000}
          required
          onChange={(e) => set({ address: e.currentTarget.value })}
        />
        <TextInput
          label={t('settings.hook_secret')}
          value={of.secret}
          minLength={16}
          maxLength={200}
          required
          onChange={(e) => set({ secret: e.currentTarget.value })}
        />
        <Select
          label={t('settings.hook_tells')}
          data={(['trouble', 'always'] as const).map((value) => ({ value, label: t(`settings.mail_${value}`) }))}
          value={of.tells}
          allowDeselect={false}
          onChange={(v) => set({ tells: (v ?? 'trouble') as Webhook['tells'] })}
        />
        <Button type="submit" loading={add.isPending}>
          {t('settings.hook_add')}
        </Button>
      </form>
      {all && <Sent last={all.last} />}
    </section>
  );
}
