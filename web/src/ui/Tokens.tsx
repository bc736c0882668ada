import { Button, Modal, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data } from '../api/client';
import { tokensQuery, useAsk } from '../api/queries';
import { t } from '../words/words';
import { when } from './format';
import './Tokens.css';

const touched = [['tokens']];

/** A person's own access tokens for programs. A new one is shown once. */
export function Tokens({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const tokens = useQuery({ ...tokensQuery, enabled: opened }).data ?? [];
  const [name, setName] = useState('');
  const make = useAsk((n: string) => data(client.POST('/api/tokens', { body: { name: n } })), touched);
  const revoke = useAsk((id: number) => data(client.DELETE('/api/tokens/{id}', { params: { path: { id } } })), touched);
  const close = () => {
    make.reset();
    onClose();
  };
  return (
    <Modal
      opened={opened}
      onClose={close}
      title={t('me.tokens')}
      size="lg"
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <p className="soft">{t('tokens.what')}</p>
      <form
        className="row"
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
          flex={1}
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
      <ul className="plain">
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
    </Modal>
  );
}
