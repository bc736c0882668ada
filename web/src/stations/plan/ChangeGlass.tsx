import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import { ask, useAsk } from '../../api/queries';
import { rendererOf } from '../../subjects';
import { useMayEdit } from '../../ui/session';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import type { InFocus } from './ChangeLines';

/** One change large, with why it is left alone or held. */
export function ChangeGlass({ plan, change, touched, open }: InFocus & { open?: boolean }) {
  if (!change) return <p className="soft">{t('plan.move')}</p>;
  const { name, Glass } = rendererOf(change.subject);
  const { code, label } = name(change, touched);
  return (
    <>
      <h3 className="mono">{code}</h3>
      <p>{label}</p>
      {change.why && <p className="notice">{say(change.why)}</p>}
      {change.released && (
        <p className="soft">{t('plan.released', { person: change.released, reason: change.reason })}</p>
      )}
      {open && change.held && <Release key={change.seq} plan={plan} line={change.seq} />}
      <Glass change={change} touched={touched} />
    </>
  );
}

/** Releases a held line, with the reason that the ledger keeps. */
function Release({ plan, line }: { plan: number; line: number }) {
  const [reason, setReason] = useState('');
  const mayEdit = useMayEdit();
  const release = useAsk(
    () => ask.release(plan, [line], reason.trim()),
    [
      ['plan', plan],
      ['changes', plan],
    ],
  );
  if (!mayEdit) return null;
  return (
    <form
      className="row"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason.trim()) release.mutate(undefined);
      }}
    >
      <TextInput
        size="xs"
        className="grow"
        placeholder={t('plan.reason')}
        aria-label={t('plan.reason')}
        maxLength={500}
        value={reason}
        onChange={(e) => setReason(e.currentTarget.value)}
      />
      <Button size="xs" type="submit" disabled={!reason.trim()} loading={release.isPending}>
        {t('plan.release')}
      </Button>
    </form>
  );
}
