import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data, type Session } from '../../api/client';
import { t } from '../../words/words';
import './SignIn.css';

/** The first page: who is there. */
export function SignIn() {
  const queries = useQueryClient();
  return (
    <main className="door">
      <div>
        <h1 className="brand">
          Ambrosa
          <i aria-hidden />
        </h1>
        <p className="soft">{t('signin.claim')}</p>
        <SignInForm onSignedIn={(session) => queries.setQueryData(['session'], session)} />
      </div>
    </main>
  );
}

interface Props {
  /** The name of who was here before. */
  known?: string;
  onSignedIn: (session: Session) => void;
}

export function SignInForm({ known = '', onSignedIn }: Props) {
  const [name, setName] = useState(known);
  const [password, setPassword] = useState('');
  const enter = useMutation({
    mutationFn: () => data(client.POST('/api/session', { body: { name, password } })),
    onSuccess: onSignedIn,
    meta: { quiet: true }, // it is said beside the fields
  });
  return (
    <form
      className="signin"
      onSubmit={(event) => {
        event.preventDefault();
        enter.mutate();
      }}
    >
      <TextInput
        label={t('signin.name')}
        name="name"
        autoComplete="username"
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        autoFocus={!known}
        required
      />
      <PasswordInput
        label={t('signin.password')}
        name="password"
        autoComplete="current-password"
        value={password}
        onChange={(e) => setPassword(e.currentTarget.value)}
        data-autofocus={known ? true : undefined}
        required
        error={enter.error?.message}
      />
      <Button type="submit" className="go" fullWidth loading={enter.isPending}>
        {t('signin.go')}
      </Button>
    </form>
  );
}
