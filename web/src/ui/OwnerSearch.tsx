import { Modal, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { Found } from '../api/client';
import { ownersQuery } from '../api/queries';
import { Thumb } from './Thumb';

interface Props {
  opened: boolean;
  title: string;
  onClose: () => void;
  onPick: (owner: Found) => void;
  hint?: string;
}

/** Finds an owner by SKU, barcode or title, from the keyboard. */
export function OwnerSearch({ opened, title, onClose, onPick, hint = '' }: Props) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text, 120);
  const found = useQuery(ownersQuery(asked));
  const [at, setAt] = useState(0);
  const list = asked.trim() ? (found.data ?? []) : [];
  useEffect(() => {
    if (opened) setText('');
  }, [opened]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new answer begins at its top
  useEffect(() => setAt(0), [found.data]);
  const pick = (owner: Found | undefined) => owner && onPick(owner);
  return (
    <Modal opened={opened} onClose={onClose} title={title} size="lg" yOffset="12vh" centered={false}>
      <TextInput
        data-autofocus
        aria-label={title}
        placeholder="SKU, barcode or title"
        value={text}
        role="combobox"
        aria-expanded={list.length > 0}
        aria-controls="found-owners"
        aria-activedescendant={list[at] ? `found-${list[at].id}` : undefined}
        onChange={(e) => setText(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') setAt((n) => Math.min(n + 1, list.length - 1));
          else if (e.key === 'ArrowUp') setAt((n) => Math.max(n - 1, 0));
          else if (e.key === 'Enter') pick(list[at]);
          else return;
          e.preventDefault();
        }}
      />
      {hint && <p className="soft mono">{hint}</p>}
      <div id="found-owners" role="listbox" aria-label="Found" className="found">
        {list.map((o, i) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the field above has the keys
          <div
            key={o.id}
            id={`found-${o.id}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === at}
            onClick={() => pick(o)}
          >
            <Thumb sha={o.picture} size={36} />
            <span>
              <b className="mono">{o.sku}</b>
              <br />
              {o.label}
            </span>
            <span className="soft">{o.kind}</span>
          </div>
        ))}
        {asked.trim() && found.isSuccess && list.length === 0 && (
          <p className="soft">Nothing is called like “{asked}”.</p>
        )}
      </div>
    </Modal>
  );
}
