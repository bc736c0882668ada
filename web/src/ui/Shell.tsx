import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Outlet } from '@tanstack/react-router';
import { useEffect } from 'react';
import { setCSRF } from '../api/client';
import { follow } from '../api/live';
import { sessionQuery } from '../api/queries';
import { SignIn } from '../stations/signin/SignIn';
import { Trail } from './Trail';
import './Shell.css';

/** The page around every station: who is signed in, the trail, and the server's words. */
export function Shell() {
  const session = useQuery(sessionQuery);
  const queries = useQueryClient();
  const person = session.data;
  if (person) setCSRF(person.csrf);
  const signedIn = Boolean(person);
  useEffect(() => (signedIn ? follow(queries) : undefined), [signedIn, queries]);
  if (session.isPending) return <div className="hush">Opening …</div>;
  if (!person) return <SignIn />;
  return (
    <div className="page">
      <a className="skip" href="#board">
        Skip to the board
      </a>
      <Trail person={person} />
      <Outlet />
    </div>
  );
}

export function useMayEdit() {
  const session = useQuery(sessionQuery);
  return session.data?.role !== 'viewer';
}
