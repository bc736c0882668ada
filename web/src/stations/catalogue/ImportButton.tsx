import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useEffect, useRef, useState } from 'react';
import { ask, importQuery, useAsk } from '../../api/queries';
import { complain } from '../../ui/complain';
import { useMayEdit } from '../../ui/session';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';

/** Sends a products table and goes to its plan once that is made, which a large one takes a while for. */
export function ImportButton() {
  const input = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const [sent, setSent] = useState(0);
  const send = useAsk(ask.importTable, [['jobs']]);
  const made = useQuery(importQuery(sent)).data;
  useEffect(() => {
    if (!made || made.id !== sent || !/done|failed|stopped/.test(made.state)) return;
    setSent(0);
    if (made.plan) void navigate({ to: '/plan/$plan', params: { plan: String(made.plan) } });
    else complain(new Error(sayAll(made.notes) || t('catalogue.same')));
  }, [made, sent, navigate]);
  if (!mayEdit) return null;
  return (
    <>
      <Button loading={send.isPending || sent > 0} onClick={() => input.current?.click()}>
        {t('catalogue.import')}
      </Button>
      {sent > 0 && (
        <span role="status" className="soft">
          {t('catalogue.importing')}
        </span>
      )}
      <input
        ref={input}
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        hidden
        data-testid="table"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          if (file) send.mutate(file, { onSuccess: ({ id }) => setSent(id) });
          e.currentTarget.value = '';
        }}
      />
    </>
  );
}
