import { UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { lazy, Suspense, useState } from 'react';
import type { Job, Session } from '../api/client';
import { jobsQuery, trailQuery } from '../api/queries';
import { sayAll } from '../words/messages';
import { count, named, t, withWords } from '../words/words';
import { Ring } from './Ring';
import { useKeys } from './useKeys';
import './Trail.css';

// What is not seen at first comes behind the first paint.
const Bell = lazy(() => withWords('bell', import('./Bell')).then((m) => ({ default: m.Bell })));
const OwnerSearch = lazy(() => import('./OwnerSearch').then((m) => ({ default: m.OwnerSearch })));
const PersonMenu = lazy(() => withWords('me', import('./PersonMenu')).then((m) => ({ default: m.PersonMenu })));
const Keys = lazy(() => withWords('keys', import('./Keys')).then((m) => ({ default: m.Keys })));

/** The bar on top: the stations in the order of the work, each with the number of things that wait there. */
export function Trail({ person }: { person: Session }) {
  const trail = useQuery(trailQuery).data;
  const jobs = useQuery(jobsQuery).data;
  const [open, setOpen] = useState<'keys' | 'search'>();
  const close = () => setOpen(undefined);
  const navigate = useNavigate();
  useKeys([
    ['?', () => setOpen('keys')],
    ['shift+?', () => setOpen('keys')],
    ['mod+k', () => setOpen('search'), { preventDefault: true }],
  ]);
  const stations = [
    { to: '/gather', name: t('station.gather'), waits: trail?.gathering },
    { to: '/pair', name: t('station.pair'), waits: trail?.toPair },
    { to: '/tables', name: t('station.tables') },
    { to: '/catalogue', name: t('station.catalogue') },
    { to: '/pictures', name: t('station.pictures') },
    { to: '/tidy', name: t('station.tidy') },
    { to: '/publish', name: t('station.publish'), waits: trail?.toPublish },
    { to: '/ledger', name: t('station.ledger'), waits: jobs?.filter((j) => j.kind === 'run' && atWork(j)).length },
  ];
  return (
    <header className="trail">
      <Link to="/gather" className="brand" aria-label={t('trail.home')}>
        Ambrosa
        <i aria-hidden />
      </Link>
      <nav aria-label={t('trail.stations')}>
        {stations.map((s) => (
          <Link key={s.to} to={s.to} className="station" activeProps={{ 'aria-current': 'page' }}>
            {s.name}
            {s.waits ? <span className="waits">{count(s.waits)}</span> : null}
          </Link>
        ))}
      </nav>
      <UnstyledButton className="seek" onClick={() => setOpen('search')}>
        <span>{t('trail.find')}</span> <kbd>Ctrl K</kbd>
      </UnstyledButton>
      <Running />
      <Suspense fallback={<span className="person">{person.name}</span>}>
        <Bell />
        <PersonMenu person={person} onKeys={() => setOpen('keys')} />
      </Suspense>
      <Suspense>
        {open === 'keys' && <Keys opened onClose={close} />}
        {open === 'search' && (
          <OwnerSearch
            opened
            title={t('trail.find_long')}
            onClose={close}
            onPick={(owner) => {
              close();
              void navigate({ to: '/catalogue/$product', params: { product: String(owner.id) } });
            }}
          />
        )}
      </Suspense>
    </header>
  );
}

/** The ring of running work: how far all that goes on in the background is, of whatever kind. */
function Running() {
  const jobs = useQuery(jobsQuery).data?.filter(atWork) ?? [];
  const first = jobs[0];
  if (!first) return null;
  // Each counts as much as another, as what they count differs; one of which nobody knows how long it is counts as none.
  const percent = Math.round(
    jobs.reduce((sum, j) => sum + (j.total ? Math.min(100, (100 * j.done) / j.total) : 0), 0) / jobs.length,
  );
  const says = t('trail.running', { percent });
  return (
    <Link
      {...place(first)}
      className="running"
      title={jobs.map(progress).join('\n')}
      aria-label={`${says}: ${jobs.map(progress).join('; ')}`}
    >
      <Ring percent={percent} />
      <span>{says}</span>
    </Link>
  );
}

const atWork = (j: Job) => j.state === 'waiting' || j.state === 'working' || j.state === 'stopping';

function progress(j: Job): string {
  const data = { title: j.title, done: j.done, total: j.total, unit: named(`unit.${j.unit}`) || j.unit };
  const notes = sayAll(j.notes);
  return t(j.total ? 'trail.progress_of' : 'trail.progress', data) + (notes && ` · ${notes}`);
}

/** Where a job is looked after. */
const place = (j: Job) =>
  j.kind === 'run'
    ? ({ to: '/ledger/$run', params: { run: String(j.subject) } } as const)
    : j.kind === 'worksheet'
      ? ({ to: '/tables/$table', params: { table: String(j.subject) } } as const)
      : j.kind === 'reconcile'
        ? ({ to: '/gather/$source', params: { source: String(j.subject) }, search: { show: 'reconcile' } } as const)
        : ({ to: j.kind === 'publishing' ? '/publish' : '/gather', search: { in: j.subject } } as const);
