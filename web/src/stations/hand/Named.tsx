import { ActionIcon, TextInput } from '@mantine/core';
import { useState } from 'react';
import { t } from '../../words/words';

interface Props {
  label: string;
  was?: Record<string, string>;
  /** What is changed of them; an empty one goes. */
  now?: Record<string, string>;
  onChange: (now: Record<string, string>) => void;
}

/** Texts by name, such as options and titles in other languages; another can be added. */
export function Named({ label, was, now, onChange }: Props) {
  const [name, setName] = useState('');
  const names = [...new Set([...Object.keys(was ?? {}), ...Object.keys(now ?? {})])];
  const set = (n: string, text: string) => onChange({ ...now, [n]: text });
  return (
    <fieldset className="named">
      <legend>{label}</legend>
      {names.map((n) => (
        <div key={n} className="row">
          <span className="name">{n}</span>
          <TextInput
            className="grow"
            aria-label={`${label}: ${n}`}
            value={now?.[n] ?? was?.[n] ?? ''}
            onChange={(e) => set(n, e.currentTarget.value)}
          />
        </div>
      ))}
      <div className="row">
        <TextInput
          className="grow"
          aria-label={t('hand.add_name', { label })}
          placeholder={t('hand.add_name_place')}
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
        />
        <ActionIcon
          variant="default"
          size={34}
          aria-label={t('hand.add_name', { label })}
          disabled={!name.trim() || names.includes(name.trim())}
          onClick={() => {
            set(name.trim(), '');
            setName('');
          }}
        >
          +
        </ActionIcon>
      </div>
    </fieldset>
  );
}
