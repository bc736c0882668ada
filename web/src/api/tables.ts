import { queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from './client';
import type { Rule } from './queries';

export type Table = Schemas['Table'];
export type TableRow = Schemas['TableRow'];
export type TableProblem = Schemas['TableProblem'];

const at = (id: number) => ({ params: { path: { id } } });

export const tableQuery = (id: number) =>
  queryOptions({
    queryKey: ['table', id],
    queryFn: () => data(client.GET('/api/tables/{id}', at(id))),
    enabled: id > 0,
    refetchInterval: (query) => (query.state.data?.own.some(isOnItsWay) ? 1000 : false),
  });

/** Whether a delivery of a table is still being taken in. */
export const isOnItsWay = (d: Schemas['OwnDelivery']) => ['open', 'waiting', 'taking_in', 'stopping'].includes(d.state);

/** The pictures that a name may mean. */
export const alikeQuery = (id: number, name: string) =>
  queryOptions({
    queryKey: ['table', id, 'alike', name],
    queryFn: () => data(client.GET('/api/tables/{id}/alike', { params: { path: { id }, query: { name } } })),
  });

/** How tables with the same header were read, as it was saved. */
export const assignmentsQuery = (id: number) =>
  queryOptions({
    queryKey: ['table', id, 'assignments'],
    queryFn: () => data(client.GET('/api/tables/{id}/assignments', at(id))),
  });

/** The tables that lay beside the pictures of a delivery. */
export const foundTablesQuery = (id: number, ready: boolean) =>
  queryOptions({
    queryKey: ['tables', 'found', id],
    queryFn: () => data(client.GET('/api/deliveries/{id}/tables', at(id))),
    enabled: ready,
  });

/** The first table that was found in a delivery, and whether none comes any more. */
export async function foundTables(delivery: number) {
  const { state } = await data(client.GET('/api/deliveries/{id}', at(delivery)));
  const [first] = await data(client.GET('/api/deliveries/{id}/tables', at(delivery)));
  return { found: first?.id, over: ['ready', 'failed', 'stopped'].includes(state) };
}

/** The pictures that a row names; another text in it may name others. */
export const picturesQuery = (id: number, row: number, cells: string[]) =>
  queryOptions({
    queryKey: ['table', id, 'pictures', row, cells],
    queryFn: ({ signal }) =>
      data(client.GET('/api/tables/{id}/rows/{row}/pictures', { signal, params: { path: { id, row } } })),
  });

const PIECE = 500;

/** A table's rows as far as they are here, those of one kind of problem where one is chosen; row 0 holds what belongs to none. */
export function useRows(id: number, kind: string | undefined) {
  const pages = useInfiniteQuery({
    queryKey: ['table', id, 'rows', kind],
    queryFn: ({ pageParam, signal }) =>
      data(
        client.GET('/api/tables/{id}/rows', {
          signal,
          params: { path: { id }, query: { after: pageParam, most: PIECE, kind } },
        }),
      ),
    initialPageParam: -1,
    getNextPageParam: (last: TableRow[]) => (last.length < PIECE ? undefined : last.at(-1)?.row),
    enabled: id > 0,
  });
  const rows = useMemo(() => pages.data?.pages.flat(), [pages.data]);
  return {
    rows: useMemo(() => rows?.filter((r) => r.row > 0), [rows]),
    rest: useMemo(() => rows?.find((r) => r.row === 0)?.problems ?? [], [rows]),
    more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage(),
    whole: !pages.hasNextPage,
  };
}

export type Described = NonNullable<Schemas['DescribeTableRequest']>;

export const askTable = {
  send: (file: File) =>
    data(
      client.POST('/api/tables', {
        params: { query: { name: file.name } },
        body: file as never,
        bodySerializer: (body: unknown) => body as File,
        headers: { 'Content-Type': 'application/octet-stream' },
      }),
    ) as unknown as Promise<{ id: number }>,
  describe: (id: number, body: Described) => data(client.PATCH('/api/tables/{id}', { ...at(id), body })),
  remove: (id: number) => data(client.DELETE('/api/tables/{id}', at(id))),
  edit: (id: number, cells: Schemas['TableCell'][]) =>
    data(client.PUT('/api/tables/{id}/cells', { ...at(id), body: cells })),
  leaveOut: (id: number, rows: number[], out: boolean) =>
    data(client.PUT('/api/tables/{id}/left-out', { ...at(id), body: { rows, out } })),
  repair: (id: number, what: { kind?: string; problems?: number[] }) =>
    data(client.POST('/api/tables/{id}/repairs', { ...at(id), body: what })),
  collect: (id: number) => data(client.POST('/api/tables/{id}/collect', at(id))),
  attach: (id: number, delivery: number) =>
    data(client.PUT('/api/tables/{id}/deliveries/{delivery}', { params: { path: { id, delivery } } })),
  detach: (id: number, delivery: number) =>
    data(client.DELETE('/api/tables/{id}/deliveries/{delivery}', { params: { path: { id, delivery } } })),
  choose: (id: number, body: NonNullable<Schemas['ChoosePictureRequest']>) =>
    data(client.PUT('/api/tables/{id}/choices', { ...at(id), body })),
  saveAssignment: (id: number, name: string) =>
    data(client.POST('/api/tables/{id}/assignments', { ...at(id), body: { name } })),
  readAs: (id: number, assignment: number) =>
    data(client.POST('/api/tables/{id}/assignments/{assignment}/use', { params: { path: { id, assignment } } })),
  removeAssignment: (id: number) => data(client.DELETE('/api/assignments/{id}', at(id))),
  undo: (id: number, again: boolean) =>
    data(again ? client.POST('/api/tables/{id}/redo', at(id)) : client.POST('/api/tables/{id}/undo', at(id))),
  plan: (id: number, rule: Rule) => data(client.POST('/api/tables/{id}/plans', { ...at(id), body: { rule } })),
};
