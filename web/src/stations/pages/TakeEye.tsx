import { Button } from '@mantine/core';
import { Link, useNavigate } from '@tanstack/react-router';
import { lazy, Suspense, useState } from 'react';
import type { Found } from '../../api/client';
import { askPages, type Glance } from '../../api/guides';
import { askHand } from '../../api/hand';
import { useAskOnce } from '../../api/queries';
import { count, when } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { takenIn } from '../../ui/takenIn';
import { say } from '../../words/messages';
import { shown, t } from '../../words/words';

const OwnerSearch = lazy(() => import('../../ui/OwnerSearch').then((m) => ({ default: m.OwnerSearch })));

interface Props {
  page: Glance;
  /** Names by address; empty for none. */
  picked: Map<string, string>;
  onTaken: () => void;
}

/** For whom the ticked pictures are: they are fetched, and planned behind those that the owner has. */
export function TakeEye({ page, picked, onTaken }: Props) {
  const before = page.taken?.[0];
  const [owner, setOwner] = useState<{ id: number; title: string; sku?: string } | undefined>(
    before && { id: before.owner, title: before.title, sku: before.sku },
  );
  const [asking, setAsking] = useState(false);
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const take = useAskOnce(async () => {
    const pictures = [...picked.keys()];
    const title = page.title || page.address || '';
    const { id: delivery } = await askHand.fetch(pictures, title.slice(0, 200));
    await takenIn(delivery, () => t('pages.fetch_stopped'));
    const names = [...picked.values()];
    return askPages.taken({
      page: page.address ?? '',
      owner: owner?.id ?? 0,
      delivery,
      pictures,
      names,
      language: shown(),
    });
  }, [['deliveries'], ['arrived'], ['trail']]);
  const pick = (found: Found) => {
    setAsking(false);
    setOwner({ id: found.id, title: found.label, sku: found.sku });
  };
  return (
    <div className="visitglass">
      <h2>{page.title || t('pages.no_title')}</h2>
      <p className="mono wrap">{page.address}</p>
      {before && (
        <p className="notice">
          {t('pages.taken_before', {
            count: page.taken?.length ?? 0,
            owner: before.title,
            when: when(before.at),
            person: before.person,
          })}
        </p>
      )}
      <h3>{t('pages.for_whom')}</h3>
      {owner ? (
        <p>
          <b>{owner.title}</b> <span className="mono soft">{owner.sku}</span>{' '}
          <Link to="/catalogue/shop/$owner" params={{ owner: String(owner.id) }} className="linkish">
            {t('pages.as_customer')}
          </Link>
        </p>
      ) : (
        <p className="soft">{t('pages.no_owner')}</p>
      )}
      {mayEdit && (
        <>
          <Button size="compact-sm" onClick={() => setAsking(true)}>
            {t(owner ? 'pages.other_owner' : 'pages.choose_owner')}
          </Button>
          <Button
            className="go"
            disabled={!owner || picked.size === 0}
            loading={take.isPending}
            onClick={() =>
              take.mutate(undefined, {
                onSuccess: ({ plan }) => {
                  if (!plan) return;
                  onTaken();
                  void navigate({ to: '/plan/$plan', params: { plan: String(plan) } });
                },
              })
            }
          >
            {t('pages.plan_picked', { count: picked.size, n: count(picked.size) })}
          </Button>
        </>
      )}
      {take.isPending && <p className="soft">{t('pages.fetching')}</p>}
      {take.error && (
        <p className="wrong" role="alert">
          {take.error.message}
        </p>
      )}
      {take.data?.wrong?.map((w) => (
        <p key={`${w.owner} ${w.field}`} className="wrong">
          {say(w.why)}
        </p>
      ))}
      <p className="soft">{t('pages.rights_what')}</p>
      <Suspense>
        {asking && (
          <OwnerSearch
            opened
            title={t('pages.for_whom')}
            hint={page.sku}
            onClose={() => setAsking(false)}
            onPick={pick}
          />
        )}
      </Suspense>
    </div>
  );
}
