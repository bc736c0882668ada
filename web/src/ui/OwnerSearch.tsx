import { Combobox, Modal, TextInput, useCombobox } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { Found } from '../api/client';
import { ownersQuery } from '../api/queries';
import { named, t } from '../words/words';
import { plainly } from './Met';
import { Thumb } from './Thumb';
import './OwnerSearch.css';

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
  // What is shown may still be of an earlier text: Enter then waits for the answer to what stands there.
  const settled = asked === text && !found.isFetching && !found.isPlaceholderData;
  const [waiting, setWaiting] = useState(false);
  const [unseen, setUnseen] = useState(false);
  const list = asked.trim() ? (found.data ?? []) : [];
  const combobox = useCombobox({ opened: list.length > 0 });
  const first = list[0];
  // Emptied while it is drawn, not after: what is typed the moment it opens stays.
  const [was, setWas] = useState(opened);
  if (opened !== was) {
    setWas(opened);
    setText('');
    setWaiting(false);
    setUnseen(false);
  }
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new answer begins at its top
  useEffect(() => {
    combobox.selectFirstOption();
  }, [found.data]);
  useEffect(() => {
    if (!waiting || !settled) return;
    setWaiting(false);
    // Who pressed Enter before the answer came has not seen it, as a hand scanner does: only the owner of that very code is meant.
    if (first?.exact) onPick(first);
    else setUnseen(true);
  }, [waiting, settled, first, onPick]);
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={title}
      size="lg"
      yOffset="12vh"
      centered={false}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <Combobox
        store={combobox}
        onOptionSubmit={(id) => {
          const owner = list.find((o) => String(o.id) === id);
          if (owner) onPick(owner);
        }}
      >
        <Combobox.EventsTarget withExpandedAttribute>
          <TextInput
            data-autofocus
            aria-label={title}
            placeholder={t('search.place')}
            value={text}
            role="combobox"
            onChange={(e) => {
              setText(e.currentTarget.value);
              setUnseen(false);
            }}
            onKeyDownCapture={(e) => {
              if (e.key === 'Escape') onClose(); // the list would take it for itself
              if (e.key !== 'Enter' || settled || !text.trim()) return;
              setWaiting(true);
              e.preventDefault();
              e.stopPropagation();
            }}
          />
        </Combobox.EventsTarget>
        {hint && <p className="soft mono wrap">{plainly(hint)}</p>}
        <p role="status" className={unseen && list.length > 0 ? 'notice' : undefined}>
          {unseen && list.length > 0 && t('search.inexact', { q: asked })}
        </p>
        {asked.trim() && found.isSuccess && settled && list.length === 0 && (
          <p className="soft">{t('search.none', { q: asked })}</p>
        )}
        {found.isError && <p role="alert">{found.error.message}</p>}
        <Combobox.Options className="found" aria-label={t('search.found')} hidden={list.length === 0}>
          {list.map((o) => (
            <Combobox.Option key={o.id} value={String(o.id)}>
              <Thumb sha={o.picture} size={36} />
              <span>
                <b className="mono">{o.sku}</b>
                <br />
                {o.label}
              </span>
              <span className="soft">{named(`owner.${o.kind}`)}</span>
            </Combobox.Option>
          ))}
        </Combobox.Options>
      </Combobox>
    </Modal>
  );
}
