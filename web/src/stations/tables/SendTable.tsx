import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useRef } from 'react';
import { useAsk } from '../../api/queries';
import { t } from '../../words/words';
import type { Dropped } from '../gather/dropped';
import { bringTables, chosen } from './bring';

/** How tables are sent, with the pictures beside them; then the first of them is shown. */
export function useBring() {
  const navigate = useNavigate();
  const bring = useAsk(bringTables, [['tables']]);
  return {
    pending: bring.isPending,
    bring: (files: Dropped[]) =>
      bring.mutate(files, {
        onSuccess: (id) => {
          if (id) void navigate({ to: '/tables/$table', params: { table: String(id) } });
        },
      }),
  };
}

/** Sends a table, and the pictures and archives that are chosen with it. */
export function SendTable() {
  const input = useRef<HTMLInputElement>(null);
  const { bring, pending } = useBring();
  return (
    <>
      <Button loading={pending} onClick={() => input.current?.click()}>
        {t('tables.send')}
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        data-testid="sheet"
        onChange={(e) => bring(chosen(e.currentTarget))}
      />
    </>
  );
}
