import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { lazy, type ReactNode, Suspense } from 'react';
import { sourceQuery, useVisits, type VisitFile } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { useTitle } from '../../ui/useTitle';
import { named, t, withWords } from '../../words/words';
import { AddressList } from './AddressList';
import { Browse } from './Browse';
import { Reconcile } from './Reconcile';
import { References } from './References';
import { SourceRail } from './SourceRail';
import { SourceTop } from './SourceTop';
import { VisitFiles } from './VisitFiles';
import { Visits } from './Visits';
import './Sources.css';

const GuideBench = lazy(() =>
  withWords('pages', import('../pages/GuideBench')).then((m) => ({ default: m.GuideBench })),
);
const WalkBoard = lazy(() => withWords('pages', import('../pages/WalkBoard')).then((m) => ({ default: m.WalkBoard })));

const WHAT = ['new', 'changed', 'renamed', 'gone'] as const;

/** One source: what came from it, what is there, and what it teaches. */
export function Sources() {
  const id = Number(useParams({ from: '/gather/$source' }).source);
  const search = useSearch({ from: '/gather/$source' });
  const navigate = useNavigate({ from: '/gather/$source' });
  const { data: source, error } = useQuery(sourceQuery(id));
  const { visits, more } = useVisits(id);
  useTitle('gather', source?.name);
  const go = (part: { show?: string; at?: number; in?: number }) =>
    void navigate({ search: (s) => ({ ...s, ...part }), replace: true });
  const show = search.show ?? '';
  const visit = search.in ? visits?.find((v) => v.id === search.in) : undefined;
  const turn = (to?: string) => go({ show: to, in: undefined, at: undefined });
  const onVisit = (visit: number) => go({ show: undefined, in: undefined, at: visit });
  const parts = {
    onVisit,
    top: source && <SourceTop source={source} visits={visits} onVisit={onVisit} />,
    at: search.at,
    onAt: (at: number | undefined) => go({ at }),
  };
  const rail = (
    <>
      <SourceRail at={id} />
      {source && (
        <>
          <h2 className="railhead">{source.name}</h2>
          <Filter
            name={t(source.kind === 'pages' ? 'sources.walks' : 'sources.visits')}
            count={source.deliveries}
            on={show === '' && !visit}
            onClick={() => turn()}
          />
          {source.kind === 'drive' && (
            <Filter name={t('sources.browse')} on={show === 'browse'} onClick={() => turn('browse')} />
          )}
          {source.kind === 'drive' && (
            <Filter name={t('sources.reconcile')} on={show === 'reconcile'} onClick={() => turn('reconcile')} />
          )}
          {source.kind === 'pages' && (
            <Filter name={t('sources.guide')} on={show === 'guide'} onClick={() => turn('guide')} />
          )}
          {source.kind === 'addresses' && (
            <Filter
              name={t('sources.addresses')}
              count={source.addresses}
              on={show === 'addresses'}
              onClick={() => turn('addresses')}
            />
          )}
          <Filter
            name={t('sources.references')}
            count={source.crossed}
            on={show === 'references'}
            onClick={() => turn('references')}
          />
        </>
      )}
      {visit?.visited && (
        <>
          <h2 className="railhead">{t('sources.found')}</h2>
          {WHAT.map((what) => (
            <Filter
              key={what}
              name={named(`sources.${what}`)}
              count={visit[what]}
              on={show === what}
              onClick={() => go({ show: show === what ? undefined : what, at: undefined })}
            />
          ))}
        </>
      )}
    </>
  );
  if (error) return <Bench rail={rail} board={<Empty title={error.message} />} glass={null} />;
  if (!source) return <Bench rail={rail} board={<div className="hush">{t('sources.opening')}</div>} glass={null} />;
  if (show === 'browse') return <Browse key={id} source={source} rail={rail} {...parts} />;
  if (show === 'reconcile') return <Reconcile key={id} source={source} rail={rail} {...parts} />;
  if (show === 'references') return <References key={id} source={source} rail={rail} {...parts} />;
  if (show === 'addresses') return <AddressList key={id} source={source} rail={rail} {...parts} />;
  if (show === 'guide') return waiting(rail, <GuideBench key={id} source={source} rail={rail} onVisit={onVisit} />);
  if (visit && source.kind === 'pages' && !WHAT.some((what) => what === show))
    return waiting(
      rail,
      <WalkBoard
        key={visit.id}
        visit={visit}
        of={show === 'without' || show === 'problem' ? show : undefined}
        onOf={(of) => go({ show: of, at: undefined })}
        rail={rail}
        {...parts}
      />,
    );
  if (visit)
    return (
      <VisitFiles
        key={visit.id}
        visit={visit}
        what={(show || undefined) as VisitFile['what'] | undefined}
        rail={rail}
        {...parts}
      />
    );
  return (
    <Visits
      source={source}
      visits={visits}
      more={more}
      rail={rail}
      {...parts}
      onOpen={(v) => go({ in: v, show: undefined, at: undefined })}
    />
  );
}

const waiting = (rail: ReactNode, board: ReactNode) => (
  <Suspense fallback={<Bench rail={rail} board={<div className="hush">{t('sources.opening')}</div>} glass={null} />}>
    {board}
  </Suspense>
);
