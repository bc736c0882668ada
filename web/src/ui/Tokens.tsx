import { Button, Modal, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data } from '../api/client';
import { tokensQuery, useAsk } from '../api/queries';
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
    <Modal opened={opened} onClose={close} title="Access tokens" size="lg">
      <p className="soft">A program that sends one acts under your name and role.</p>
      <form
        className="row"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(name, { onSuccess: () => setName('') });
        }}
      >
        <TextInput
          aria-label="What the token is for"
          placeholder="What is it for?"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={60}
          required
          flex={1}
        />
        <Button type="submit" loading={make.isPending}>
          Make a token
        </Button>
      </form>
      {make.data && (
        <div className="notice" role="status">
          Copy it now; it is not shown again.
          <code className="mono secret">{make.data.token}</code>
        </div>
      )}
      <ul className="plain">
        {tokens.map((t) => (
          <li key={t.id} className="row">
            <span className="grow">{t.name}</span>
            <span className="soft">{t.usedAt ? `used ${when(t.usedAt)}` : 'never used'}</span>
            <Button size="xs" onClick={() => revoke.mutate(t.id)}>
              Revoke
            </Button>
          </li>
        ))}
      </ul>
    </Modal>
  );
}
