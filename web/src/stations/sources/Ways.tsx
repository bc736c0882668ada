import { Button, Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { askSource, type Rights, waysQuery } from '../../api/sources';
import { when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { useMayAdmin } from '../../ui/mayAdmin';
import { t } from '../../words/words';
import { RightsFields, RightsLine } from './Rights';

/** All that a picture came by, and what it may be used for. */
export function Ways({ sha }: { sha: string }) {
  const { data } = useQuery(waysQuery(sha));
  const admin = useMayAdmin();
  const [setting, setSetting] = useState(false);
  if (!data) return null;
  return (
    <section className="ways">
      <RightsLine rights={data.rights} />
      {admin && (
        <button type="button" className="linkish" onClick={() => setSetting(true)}>
          {t('rights.set')}
        </button>
      )}
      <h3>{t('gather.came_by')}</h3>
      <ul>
        {data.ways.map((w) => {
          const { address } = w.origin as { address?: string };
          return (
            <li key={w.id}>
              <Link to="/gather" search={{ in: w.delivery, at: w.id }}>
                {w.title}
              </Link>{' '}
              <span className="soft">
                {w.sourceName || t('sources.by_upload')} · {when(w.at)} · {w.person}
              </span>
              {address && <span className="mono wrap soft"> {plainly(address)}</span>}
            </li>
          );
        })}
      </ul>
      {setting && <SetRights sha={sha} rights={data.rights} onClose={() => setSetting(false)} />}
    </section>
  );
}

function SetRights({ sha, rights: was, onClose }: { sha: string; rights?: Rights; onClose: () => void }) {
  const [rights, setRights] = useState<Rights>(was ?? { may: 'cleared' });
  const keep = useAskOnce(() => askSource.setRights(sha, rights), [['ways', sha]]);
  return (
    <Modal opened onClose={onClose} title={t('rights.set_title')} closeButtonProps={{ 'aria-label': t('page.close') }}>
      <form
        className="formstack"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(undefined, { onSuccess: onClose });
        }}
      >
        <p className="soft">{t('rights.set_what')}</p>
        <RightsFields rights={rights} onChange={setRights} />
        <div className="row answers">
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go" disabled={!rights.may} loading={keep.isPending}>
            {t('sources.save')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
