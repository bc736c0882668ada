import { Button, TextInput } from '@mantine/core';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, useAsk } from '../../api/queries';
import { rendererOf } from '../../subjects';
import { useMayAdmin } from '../../ui/mayAdmin';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import type { InFocus } from './ChangeLines';
import './ChangeGlass.css';

/** One change large, with why it is left alone or held. */
export function ChangeGlass({ plan, change, touched, open }: InFocus & { open?: boolean }) {
  if (!change) return <p className="soft">{t('plan.move')}</p>;
  const { name, Glass, elsewhere } = rendererOf(change.subject);
  const { code, label } = name(change, touched);
  return (
    <>
      <h3 className="mono">{code}</h3>
      <p>{label}</p>
      {!elsewhere && (
        <p>
          <Link to="/catalogue/shop/$owner" params={{ owner: String(change.id) }} search={{ plan }}>
            {t('plan.as_customer')}
          </Link>
        </p>
      )}
      {change.why && <p className="notice">{say(change.why)}</p>}
      {change.released && (
        <p className="soft">{t('plan.released', { person: change.released, reason: change.reason })}</p>
      )}
      {open && change.held && <Release key={change.seq} plan={plan} line={change.seq} />}
      <Glass change={change} touched={touched} />
    </>
  );
}

/** Releases a held line, or all of the plan, with the reason that the ledger keeps; for admins. */
function Release({ plan, line }: { plan: number; line: number }) {
  const [reason, setReason] = useState('');
  const admin = useMayAdmin();
  const release = useAsk(
    (lines: number[]) => ask.release(plan, lines, reason.trim()),
    [
      ['plan', plan],
      ['changes', plan],
    ],
  );
  if (!admin) return <p className="soft">{t('plan.admin_releases')}</p>;
  return (
    <form
      className="row release"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason.trim()) release.mutate([line]);
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
      <Button size="xs" disabled={!reason.trim()} loading={release.isPending} onClick={() => release.mutate([])}>
        {t('plan.release_all')}
      </Button>
    </form>
  );
}
