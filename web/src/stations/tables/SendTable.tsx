import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useRef } from 'react';
import { useAsk } from '../../api/queries';
import { askTable } from '../../api/tables';
import { t } from '../../words/words';

/** Sends a table and goes to it. */
export function SendTable() {
  const input = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const send = useAsk(askTable.send, [['tables']]);
  return (
    <>
      <Button loading={send.isPending} onClick={() => input.current?.click()}>
        {t('tables.send')}
      </Button>
      <input
        ref={input}
        type="file"
        accept=".csv,.tsv,.txt,.xlsx,.xlsm,.ods"
        hidden
        data-testid="sheet"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          if (file) {
            send.mutate(file, {
              onSuccess: ({ id }) => void navigate({ to: '/tables/$table', params: { table: String(id) } }),
            });
          }
          e.currentTarget.value = '';
        }}
      />
    </>
  );
}
