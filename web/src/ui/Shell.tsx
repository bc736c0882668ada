import { Button } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Outlet } from '@tanstack/react-router';
import { lazy, Suspense, useEffect, useState } from 'react';
import { onSessionEnded, Refusal, type Session, setCSRF } from '../api/client';
import { follow } from '../api/live';
import { sessionQuery } from '../api/queries';
import { setLanguage, t } from '../words/words';
import { Empty } from './Empty';
import { useSettings } from './settings';
import { Trail } from './Trail';
import { useDropGuard } from './useDropGuard';
import './Shell.css';

const SignIn = lazy(() => import('../stations/signin/SignIn').then((m) => ({ default: m.SignIn })));
const SessionEnded = lazy(() => import('./SessionEnded').then((m) => ({ default: m.SessionEnded })));

/** The page around every station: who is signed in, the trail, and the server's events. */
export function Shell() {
  const session = useQuery(sessionQuery);
  useDropGuard();
  const person = session.data;
  if (person) return <Page person={person} />;
  if (session.isPending) return <div className="hush">{t('page.opening')}</div>;
  if (session.error && !(session.error instanceof Refusal && session.error.status === 401)) {
    return (
      <Empty title={t('page.down')}>
        <p>{session.error.message}</p>
        <p>
          <Button className="go" onClick={() => void session.refetch()} loading={session.isFetching}>
            {t('page.again')}
          </Button>
        </p>
      </Empty>
    );
  }
  return (
    <Suspense fallback={<div className="hush">{t('page.opening')}</div>}>
      <SignIn />
    </Suspense>
  );
}

function Page({ person }: { person: Session }) {
  const queries = useQueryClient();
  const [ended, setEnded] = useState(false);
  const [{ language }] = useSettings();
  useEffect(() => {
    if (language) void setLanguage(language);
  }, [language]);
  setCSRF(person.csrf);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another session is listened to again
  useEffect(() => follow(queries), [queries, person.csrf]);
  useEffect(() => onSessionEnded(() => setEnded(true)), []);
  /** Whoever signs in again goes on where they were; somebody else begins again. */
  const signedIn = (next: Session) => {
    if (next.name !== person.name) {
      window.location.reload();
      return;
    }
    setCSRF(next.csrf);
    setEnded(false);
    queries.setQueryData(['session'], next);
    void queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'session' });
  };
  return (
    <div className="page">
      <a className="skip" href="#board">
        {t('page.skip')}
      </a>
      <Trail person={person} />
      <Outlet />
      {ended && (
        <Suspense>
          <SessionEnded person={person} onSignedIn={signedIn} />
        </Suspense>
      )}
    </div>
  );
}
