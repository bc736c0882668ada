import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data } from '../../api/client';
import './SignIn.css';

export function SignIn() {
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const enter = useMutation({
    mutationFn: () => data(client.POST('/api/session', { body: { name, password } })),
    onSuccess: (session) => queries.setQueryData(['session'], session),
    meta: { quiet: true }, // it is said beside the fields
  });
  return (
    <main className="door">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          enter.mutate();
        }}
      >
        <h1 className="brand">
          Ambrosa
          <i aria-hidden />
        </h1>
        <p className="soft">The right picture on the right product.</p>
        <TextInput
          label="Name"
          name="name"
          autoComplete="username"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          autoFocus
          required
        />
        <PasswordInput
          label="Password"
          name="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.currentTarget.value)}
          required
          error={enter.error?.message}
        />
        <Button type="submit" className="go" fullWidth loading={enter.isPending}>
          Sign in
        </Button>
      </form>
    </main>
  );
}
