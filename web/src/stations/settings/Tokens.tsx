import { Button, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data } from '../../api/client';
import { tokensQuery, useAsk } from '../../api/queries';
import { when } from '../../ui/format';
import { t } from '../../words/words';
import './Tokens.css';

const touched = [['tokens']];

/** A person's own access tokens for programs. A new one is shown once. */
export function Tokens() {
  const tokens = useQuery(tokensQuery).data ?? [];
  const [name, setName] = useState('');
  const make = useAsk((n: string) => data(client.POST('/api/tokens', { body: { name: n } })), touched);
  const revoke = useAsk((id: number) => data(client.DELETE('/api/tokens/{id}', { params: { path: { id } } })), touched);
  return (
    <section>
      <h2>{t('tokens.title')}</h2>
      <p className="soft">{t('tokens.what')}</p>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(name, { onSuccess: () => setName('') });
        }}
      >
        <TextInput
          aria-label={t('tokens.for')}
          placeholder={t('tokens.for')}
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={60}
          required
        />
        <Button type="submit" loading={make.isPending}>
          {t('tokens.make')}
        </Button>
      </form>
      {make.data && (
        <div className="notice" role="status">
          {t('tokens.copy')}
          <code className="mono secret">{make.data.token}</code>
        </div>
      )}
      <ul className="plain tokens">
        {tokens.map((one) => (
          <li key={one.id} className="row">
            <span className="grow">{one.name}</span>
            <span className="soft">
              {one.usedAt ? t('tokens.used', { when: when(one.usedAt) }) : t('tokens.unused')}
            </span>
            <Button
              size="xs"
              aria-label={t('tokens.revoke_of', { name: one.name })}
              onClick={() => revoke.mutate(one.id)}
            >
              {t('tokens.revoke')}
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
