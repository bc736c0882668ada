import { queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from './client';
import { fetchAll } from './pages';

export type Source = Schemas['Source'];
export type NewSource = Schemas['NewSource'];
export type Visit = Schemas['Visit'];
export type VisitFile = Schemas['VisitFile'];

/** Whether a visit goes on. */
export const isWorking = ({ state }: Visit) => ['waiting', 'taking_in', 'stopping'].includes(state);

export type Protocol = Schemas['Protocol'];
export type Rights = Schemas['Rights'];
export type Tried = Schemas['Tried'];
export type Entry = Schemas['Entry'];
export type Reference = Schemas['Reference'];

const at = (id: number) => ({ params: { path: { id } } });
const PIECE = 100;

// All of it is looked at again with the deliveries: what comes in changes it.
const all = ['deliveries', 'sources'];
export const sourceTouched = [['deliveries'], ['drive-hosts'], ['trail']];

export const sourcesQuery = queryOptions({
  queryKey: all,
  queryFn: async ({ signal }) => {
    const found: Source[] = [];
    for (;;) {
      const query = { after: found.at(-1)?.id };
      const more = await data(client.GET('/api/sources', { params: { query }, signal }));
      found.push(...more);
      if (more.length < 2 * PIECE) return found;
    }
  },
});

export const sourceQuery = (id: number) =>
  queryOptions({
    queryKey: [...all, id],
    queryFn: () => data(client.GET('/api/sources/{id}', at(id))),
    enabled: id > 0,
  });

export const protocolsQuery = queryOptions({
  queryKey: ['protocols'],
  queryFn: () => data(client.GET('/api/protocols')),
  staleTime: Number.POSITIVE_INFINITY,
});

export const hostsQuery = queryOptions({
  queryKey: ['drive-hosts'],
  queryFn: () => data(client.GET('/api/drive-hosts')),
});

/** What came from a source, the newest first, as far as it is here. */
export function useVisits(id: number) {
  const pages = useInfiniteQuery({
    queryKey: [...all, id, 'visits'],
    queryFn: ({ pageParam: before }) =>
      data(client.GET('/api/sources/{id}/visits', { params: { path: { id }, query: { before, most: PIECE } } })),
    initialPageParam: 0,
    getNextPageParam: (last: Visit[]) => (last.length < PIECE ? undefined : last.at(-1)?.id),
  });
  const visits = useMemo(() => pages.data?.pages.flat(), [pages.data]);
  return { visits, more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage() };
}

const FILES = 1000;

/** What a visit found that is not as it was. */
export function useVisitFiles(id: number, what: VisitFile['what'] | undefined) {
  const pages = useInfiniteQuery({
    queryKey: [...all, 'visit', id, what],
    queryFn: ({ pageParam: after }) =>
      data(client.GET('/api/visits/{id}/files', { params: { path: { id }, query: { what, after, most: FILES } } })),
    initialPageParam: 0,
    getNextPageParam: (last: VisitFile[]) => (last.length < FILES ? undefined : last.at(-1)?.n),
    enabled: id > 0,
  });
  const files = useMemo(() => pages.data?.pages.flat().map((f) => ({ ...f, id: f.n })), [pages.data]);
  return { files, more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage() };
}

/** What is in one folder of a drive. */
export const folderQuery = (id: number, path: string) =>
  queryOptions({
    queryKey: ['drive', id, path],
    queryFn: async ({ signal }) => {
      const found: Entry[] = [];
      for (;;) {
        const query = { path, after: found.at(-1)?.path };
        const more = await data(client.GET('/api/sources/{id}/folder', { params: { path: { id }, query }, signal }));
        found.push(...more);
        if (more.length < 1000) return found;
      }
    },
    retry: false,
    staleTime: 60_000,
  });

export const referencesQuery = (id: number) =>
  queryOptions({
    queryKey: [...all, id, 'references'],
    queryFn: () => data(client.GET('/api/sources/{id}/references', at(id))),
  });

export const learntQuery = (id: number) =>
  queryOptions({
    queryKey: [...all, id, 'learnt'],
    queryFn: () => data(client.GET('/api/sources/{id}/learnt', at(id))),
  });

/** Where a picture came from, and what it may be used for. */
export const waysQuery = (sha: string) =>
  queryOptions({
    queryKey: ['ways', sha],
    queryFn: () => data(client.GET('/api/pictures/{sha}/ways', { params: { path: { sha } } })),
    enabled: sha !== '',
  });

export const glimpseURL = (id: number, path: string) => `/api/sources/${id}/glimpse?path=${encodeURIComponent(path)}`;

export const askSource = {
  add: (body: NewSource) => data(client.POST('/api/sources', { body })),
  set: (id: number, body: NewSource) => data(client.PUT('/api/sources/{id}', { ...at(id), body })),
  remove: (id: number) => data(client.DELETE('/api/sources/{id}', at(id))),
  collect: (id: number, chosen: string[]) =>
    data(client.POST('/api/sources/{id}/visits', { ...at(id), body: { chosen } })),
  look: (id: number) => data(client.POST('/api/sources/{id}/try', at(id))),
  renew: (id: number, items: string[]) => data(client.POST('/api/visits/{id}/renewal', { ...at(id), body: { items } })),
  schedule: (id: number, body: Schemas['Schedule']) =>
    data(client.PUT('/api/sources/{id}/schedule', { ...at(id), body })),
  addresses: (id: number, text: string) =>
    data(client.PUT('/api/sources/{id}/addresses', { ...at(id), body: { text } })),
  openDoor: (id: number) => data(client.POST('/api/sources/{id}/door', at(id))),
  closeDoor: (id: number) => data(client.DELETE('/api/sources/{id}/door', at(id))),
  allow: (kind: string, host: string) => data(client.POST('/api/drive-hosts', { body: { kind, host } })),
  forbid: (kind: string, host: string) =>
    data(client.DELETE('/api/drive-hosts', { params: { query: { kind, host } } })),
  refer: (id: number, body: { entries?: Reference[]; text?: string }) =>
    data(client.POST('/api/sources/{id}/references', { ...at(id), body })),
  unrefer: (id: number, codes: string) =>
    data(client.DELETE('/api/sources/{id}/references', { params: { path: { id }, query: { codes } } })),
  setRights: (sha: string, body: Rights) =>
    data(client.PUT('/api/pictures/{sha}/rights', { params: { path: { sha } }, body })),
  passDay: () => data(client.POST('/api/outside/day')),
};

export type Reconciled = Schemas['Reconciled'];

/** How far the look at a drive beside all pictures is, and how much was found of each kind. */
export const reconciliationQuery = (id: number) =>
  queryOptions({
    queryKey: [...all, id, 'reconciliation'],
    queryFn: () => data(client.GET('/api/sources/{id}/reconciliation', at(id))),
    refetchInterval: (query) => (query.state.data && isLooking(query.state.data) ? 1000 : false),
  });

export const isLooking = ({ state }: Schemas['Reconciliation']) =>
  state === 'waiting' || state === 'working' || state === 'stopping';

/** What a drive is beside all pictures. when is the look's time: another look gives other lines. */
export function useReconciled(id: number, what: Reconciled['what'] | undefined, when: string | undefined) {
  const pages = useInfiniteQuery({
    queryKey: [...all, id, 'reconciled', what, when],
    queryFn: ({ pageParam: after }) =>
      data(
        client.GET('/api/sources/{id}/reconciled', { params: { path: { id }, query: { what, after, most: FILES } } }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last: Reconciled[]) => (last.length < FILES ? undefined : last.at(-1)?.n),
    enabled: when !== undefined,
  });
  const files = useMemo(() => pages.data?.pages.flat().map((f) => ({ ...f, id: f.n })), [pages.data]);
  return {
    files,
    whole: !pages.hasNextPage,
    more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage(),
    fetchAll: () => fetchAll(pages),
  };
}

export const askReconcile = {
  look: (id: number) => data(client.POST('/api/sources/{id}/reconciliation', at(id))),
  stop: (id: number) => data(client.DELETE('/api/sources/{id}/reconciliation', at(id))),
  ignore: (id: number, items: string[], ignored: boolean) =>
    data(client.PUT('/api/sources/{id}/marks', { ...at(id), body: { items, ignored } })),
};
