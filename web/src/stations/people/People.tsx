import { Button, PasswordInput, Select, TextInput } from '@mantine/core';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, data, type Person } from '../../api/client';
import { sessionQuery, useAsk } from '../../api/queries';
import { say } from '../../ui/complain';
import { Empty } from '../../ui/Empty';
import { count, when } from '../../ui/format';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { Audit } from './Audit';
import { Deactivate } from './Deactivate';
import '../settings/Settings.css';
import './People.css';

type Role = 'viewer' | 'editor' | 'admin';

const roles = (): { value: Role; label: string }[] =>
  (['viewer', 'editor', 'admin'] as const).map((value) => ({ value, label: t(`role.${value}`) }));

const touched = [['people'], ['audit']];
const byID = (id: number) => ({ params: { path: { id } } });
const PIECE = 100;

/** Who may sign in, for admins: add, change the role, sign out, deactivate; and what was done to whom. */
export function People() {
  useTitle('people');
  const me = useQuery(sessionQuery).data;
  const people = useInfiniteQuery({
    queryKey: ['people'],
    queryFn: ({ pageParam }: { pageParam: number }) =>
      data(client.GET('/api/people', { params: { query: { after: pageParam, most: PIECE } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => (page.length < PIECE ? undefined : page.at(-1)?.id),
    enabled: me?.role === 'admin',
  });
  if (me?.role !== 'admin') return <Empty title={t('people.only_admins')} />;
  const all = people.data?.pages.flat() ?? [];
  return (
    <main className="sheet">
      <h1>{t('station.people')}</h1>
      <AddPerson />
      <section>
        <h2>{t('people.count', { count: all.length })}</h2>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
        <section className="tablebox" tabIndex={0} aria-label={t('station.people')}>
          <table className="table">
            <thead>
              <tr>
                <th scope="col">{t('people.name')}</th>
                <th scope="col">{t('people.role')}</th>
                <th scope="col">{t('people.seen')}</th>
                <th scope="col" className="figures">
                  {t('people.sessions')}
                </th>
                <th scope="col" className="figures">
                  {t('people.tokens')}
                </th>
                <td />
              </tr>
            </thead>
            <tbody>
              {all.map((p) => (
                <PersonRow key={p.id} person={p} />
              ))}
            </tbody>
          </table>
        </section>
        {people.hasNextPage && <Button onClick={() => void people.fetchNextPage()}>{t('people.older')}</Button>}
      </section>
      <Audit />
    </main>
  );
}

function PersonRow({ person }: { person: Person }) {
  const { id, name } = person;
  const setRole = useAsk(
    (role: Role) => data(client.PUT('/api/people/{id}/role', { ...byID(id), body: { role } })),
    touched,
  );
  const end = useAsk(() => data(client.POST('/api/people/{id}/end-sessions', byID(id))), touched);
  const activate = useAsk(() => data(client.POST('/api/people/{id}/activate', byID(id))), touched);
  const [asking, setAsking] = useState(false);
  return (
    <tr className={person.endedAt ? 'soft' : undefined}>
      <th scope="row">{name}</th>
      <td>
        <Select
          size="xs"
          aria-label={`${name}: ${t('people.role')}`}
          data={roles()}
          value={person.role}
          allowDeselect={false}
          disabled={Boolean(person.endedAt)}
          onChange={(role) => role && setRole.mutate(role as Role)}
        />
      </td>
      <td>
        {person.endedAt
          ? t('people.left', { when: when(person.endedAt) })
          : person.seenAt
            ? when(person.seenAt)
            : t('people.never')}
      </td>
      <td className="figures">{count(person.sessions)}</td>
      <td className="figures">{count(person.tokens)}</td>
      <td>
        <div className="row acts">
          {person.endedAt ? (
            <Button
              size="xs"
              aria-label={`${name}: ${t('people.activate')}`}
              onClick={() => activate.mutate(undefined)}
            >
              {t('people.activate')}
            </Button>
          ) : (
            <>
              <Button
                size="xs"
                disabled={person.sessions === 0}
                aria-label={`${name}: ${t('people.end_sessions')}`}
                onClick={() => end.mutate(undefined)}
              >
                {t('people.end_sessions')}
              </Button>
              <Button size="xs" aria-label={`${name}: ${t('people.deactivate')}`} onClick={() => setAsking(true)}>
                {t('people.deactivate')}
              </Button>
            </>
          )}
        </div>
        <Deactivate person={person} opened={asking} onClose={() => setAsking(false)} touched={touched} />
      </td>
    </tr>
  );
}

function AddPerson() {
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [role, setRole] = useState<Role>('editor');
  const add = useAsk(() => data(client.POST('/api/people', { body: { name, password, role } })), touched);
  return (
    <section>
      <h2>{t('people.add')}</h2>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(undefined, {
            onSuccess: () => {
              say(t('people.added', { name }));
              setName('');
              setPassword('');
            },
          });
        }}
      >
        <TextInput
          label={t('people.name')}
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          required
        />
        <PasswordInput
          label={t('people.first_password')}
          autoComplete="new-password"
          minLength={10}
          value={password}
          onChange={(e) => setPassword(e.currentTarget.value)}
          required
        />
        <Select
          label={t('people.role')}
          data={roles()}
          value={role}
          allowDeselect={false}
          onChange={(r) => r && setRole(r as Role)}
        />
        <Button type="submit" loading={add.isPending}>
          {t('people.add')}
        </Button>
      </form>
    </section>
  );
}
