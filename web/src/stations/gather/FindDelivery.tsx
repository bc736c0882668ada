import { Select, TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Wanted } from '../../api/pages';
import { suppliersQuery } from '../../api/queries';
import { named, t } from '../../words/words';
import './FindDelivery.css';

interface Props {
  wanted: Wanted;
  onWanted: (wanted: Wanted) => void;
}

const states = ['open', 'waiting', 'taking_in', 'stopped', 'ready', 'failed'] as const;

/** Finds deliveries by their words, their state and whose they are. */
export function FindDelivery({ wanted, onWanted }: Props) {
  const [text, setText] = useState(wanted.q ?? '');
  const suppliers = useQuery(suppliersQuery).data ?? [];
  const ask = useDebouncedCallback((q: string) => onWanted({ ...wanted, q: q || undefined }), 200);
  const show = wanted.closed === 'yes' ? 'closed' : (wanted.state ?? null);
  return (
    <div className="finddelivery">
      <TextInput
        size="xs"
        aria-label={t('gather.find')}
        placeholder={t('gather.find')}
        value={text}
        onChange={(e) => {
          setText(e.currentTarget.value);
          ask(e.currentTarget.value.trim());
        }}
      />
      <Select
        size="xs"
        aria-label={t('gather.by_state')}
        placeholder={t('gather.by_state')}
        clearable
        data={[
          ...states.map((s) => ({ value: s, label: named(`state.${s}`) })),
          { value: 'closed', label: t('gather.closed') },
        ]}
        value={show}
        onChange={(s) =>
          onWanted({
            ...wanted,
            state: s === 'closed' ? undefined : ((s ?? undefined) as Wanted['state']),
            closed: s === 'closed' ? 'yes' : 'no',
          })
        }
      />
      {suppliers.length > 0 && (
        <Select
          size="xs"
          aria-label={t('gather.supplier')}
          placeholder={t('gather.supplier')}
          clearable
          searchable
          data={suppliers}
          value={wanted.supplier ?? null}
          onChange={(s) => onWanted({ ...wanted, supplier: s ?? undefined })}
        />
      )}
    </div>
  );
}
