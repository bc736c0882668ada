import { Menu, RingProgress, Tooltip, UnstyledButton, useMantineColorScheme } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { client, type Job, type Session } from '../api/client';
import { jobsQuery, trailQuery } from '../api/queries';
import { sayAll } from '../words/messages';
import { count } from './format';
import { Keys } from './Keys';
import { OwnerSearch } from './OwnerSearch';
import { Tokens } from './Tokens';
import './Trail.css';

/** The bar on top: the stations in the order of the work, each with the number of things that wait there. */
export function Trail({ person }: { person: Session }) {
  const trail = useQuery(trailQuery).data;
  const jobs = useQuery(jobsQuery).data;
  const [keys, setKeys] = useState(false);
  const [tokens, setTokens] = useState(false);
  const [search, setSearch] = useState(false);
  const navigate = useNavigate();
  useHotkeys([
    ['?', () => setKeys(true)],
    ['shift+?', () => setKeys(true)],
    ['mod+k', () => setSearch(true)],
  ]);
  const stations = [
    { to: '/gather', name: 'Gather', waits: trail?.gathering },
    { to: '/pair', name: 'Pair', waits: trail?.toPair },
    { to: '/sheets', name: 'Sheets' },
    { to: '/catalogue', name: 'Catalogue' },
    { to: '/tidy', name: 'Tidy' },
    { to: '/ledger', name: 'Ledger', waits: jobs?.filter((j) => j.kind === 'run' && atWork(j)).length },
  ];
  return (
    <header className="trail">
      <Link to="/gather" className="brand" aria-label="Ambrosa">
        Ambrosa
        <i aria-hidden />
      </Link>
      <nav aria-label="Stations">
        {stations.map((s) => (
          <Link key={s.to} to={s.to} className="station" activeProps={{ 'aria-current': 'page' }}>
            {s.name}
            {s.waits ? <span className="waits">{count(s.waits)}</span> : null}
          </Link>
        ))}
      </nav>
      <UnstyledButton className="seek" onClick={() => setSearch(true)}>
        Find a product <kbd>Ctrl K</kbd>
      </UnstyledButton>
      <Running />
      <PersonMenu person={person} onTokens={() => setTokens(true)} onKeys={() => setKeys(true)} />
      <Keys opened={keys} onClose={() => setKeys(false)} />
      <Tokens opened={tokens} onClose={() => setTokens(false)} />
      <OwnerSearch
        opened={search}
        title="Find a product or variant"
        onClose={() => setSearch(false)}
        onPick={(owner) => {
          setSearch(false);
          void navigate({ to: '/catalogue/$product', params: { product: String(owner.id) } });
        }}
      />
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
  return (
    <Tooltip multiline label={jobs.map((j) => <div key={j.id}>{progress(j)}</div>)}>
      <Link {...place(first)} className="running" aria-label={jobs.map(progress).join('; ')}>
        <RingProgress
          size={24}
          thickness={5}
          sections={[{ value: percent, color: 'var(--amber)' }]}
          rootColor="var(--line)"
        />
        <span>{percent} %</span>
      </Link>
    </Tooltip>
  );
}

const atWork = (j: Job) => j.state === 'waiting' || j.state === 'working' || j.state === 'stopping';

const progress = (j: Job) =>
  `${j.title}: ${count(j.done)}${j.total ? ` of ${count(j.total)}` : ''} ${j.unit}${sayAll(j.notes) && ` · ${sayAll(j.notes)}`}`;

/** Where a job is looked after. */
const place = (j: Job) =>
  j.kind === 'run'
    ? ({ to: '/ledger/$run', params: { run: String(j.subject) } } as const)
    : j.kind === 'import'
      ? ({ to: '/catalogue' } as const)
      : ({ to: '/gather', search: { in: j.subject } } as const);

function PersonMenu({ person, onTokens, onKeys }: { person: Session; onTokens: () => void; onKeys: () => void }) {
  const queries = useQueryClient();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  const signOut = async () => {
    await client.DELETE('/api/session');
    queries.clear();
    queries.setQueryData(['session'], null);
  };
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <UnstyledButton className="person" aria-label={`${person.name}, ${person.role}`}>
          {person.name}
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>You may act as {person.role}</Menu.Label>
        {(['light', 'dark', 'auto'] as const).map((scheme) => (
          <Menu.Item
            key={scheme}
            onClick={() => setColorScheme(scheme)}
            rightSection={colorScheme === scheme ? '●' : ''}
          >
            {{ light: 'Light', dark: 'Dark', auto: 'Light or dark, as the system' }[scheme]}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.Item onClick={onKeys} rightSection={<kbd>?</kbd>}>
          Keys
        </Menu.Item>
        <Menu.Item onClick={onTokens}>Access tokens</Menu.Item>
        <Menu.Item component="a" href="/api/docs">
          The HTTP interface
        </Menu.Item>
        <Menu.Divider />
        <Menu.Item onClick={() => void signOut()}>Sign out</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
