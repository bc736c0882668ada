import {
  Button,
  type MantineColorScheme,
  PasswordInput,
  SegmentedControl,
  Switch,
  useMantineColorScheme,
} from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data } from '../../api/client';
import { say } from '../../ui/complain';
import { useSettings } from '../../ui/settings';
import { useTitle } from '../../ui/useTitle';
import { t, useLanguage } from '../../words/words';
import { Messages } from './Messages';
import { Tokens } from './Tokens';
import './Settings.css';

/** Everybody's own page: language, theme, how the boards look, keys, password, tokens. */
export function Settings() {
  useTitle('settings');
  const [settings, set] = useSettings();
  const language = useLanguage();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  return (
    <main className="sheet">
      <h1>{t('station.settings')}</h1>
      <section>
        <h2 id="language">{t('settings.language')}</h2>
        <SegmentedControl
          aria-labelledby="language"
          value={settings.language ?? language}
          onChange={(language) => set({ language: language as 'en' | 'de' })}
          data={[
            { value: 'en', label: 'English' },
            { value: 'de', label: 'Deutsch' },
          ]}
        />
      </section>
      <section>
        <h2 id="theme">{t('me.theme')}</h2>
        <SegmentedControl
          aria-labelledby="theme"
          value={colorScheme}
          onChange={(scheme) => setColorScheme(scheme as MantineColorScheme)}
          data={(['light', 'dark', 'auto'] as const).map((value) => ({ value, label: t(`me.${value}`) }))}
        />
      </section>
      <section>
        <h2 id="density">{t('settings.density')}</h2>
        <SegmentedControl
          aria-labelledby="density"
          value={settings.density ?? 'comfortable'}
          onChange={(density) => set({ density: density as 'comfortable' | 'dense' })}
          data={[
            { value: 'comfortable', label: t('settings.comfortable') },
            { value: 'dense', label: t('settings.dense') },
          ]}
        />
      </section>
      <section>
        <h2>{t('me.keys')}</h2>
        <Switch
          label={t('settings.keys')}
          description={t('settings.keys_why')}
          checked={settings.keys ?? true}
          onChange={(e) => set({ keys: e.currentTarget.checked })}
        />
      </section>
      <Messages />
      <Password />
      <Tokens />
    </main>
  );
}

function Password() {
  const [old, setOld] = useState('');
  const [fresh, setFresh] = useState('');
  const change = useMutation({
    mutationFn: () => data(client.PUT('/api/session/password', { body: { old, new: fresh } })),
    onSuccess: () => {
      setOld('');
      setFresh('');
      say(t('settings.changed'));
    },
    meta: { quiet: true },
  });
  return (
    <section>
      <h2>{t('settings.password')}</h2>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <PasswordInput
          label={t('settings.old')}
          autoComplete="current-password"
          value={old}
          onChange={(e) => setOld(e.currentTarget.value)}
          error={change.error?.message}
          required
        />
        <PasswordInput
          label={t('settings.new')}
          autoComplete="new-password"
          minLength={10}
          value={fresh}
          onChange={(e) => setFresh(e.currentTarget.value)}
          required
        />
        <Button type="submit" loading={change.isPending}>
          {t('settings.password')}
        </Button>
      </form>
    </section>
  );
}
