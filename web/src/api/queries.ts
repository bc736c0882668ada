import { keepPreviousData, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';
import { type Arrival, type Category, type Cell, client, data, type Schemas, type Share } from './client';

/** What to do where the owner already has pictures. */
export type Rule = 'only_where_empty' | 'add_after' | 'same_place' | 'whole_set';

/** What a person says of one line. */
export interface Decision {
  arrival: number;
  owner?: number;
  also?: Share[];
  aside?: boolean;
  rank?: number;
}

const byID = (id: number) => ({ params: { path: { id } } });

export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: () => data(client.GET('/api/session')),
  retry: false,
  staleTime: Number.POSITIVE_INFINITY,
});

export const trailQuery = queryOptions({ queryKey: ['trail'], queryFn: () => data(client.GET('/api/trail')) });

/** All that runs in the background, of every kind, and what failed or was stopped in the last day. */
export const jobsQuery = queryOptions({ queryKey: ['jobs'], queryFn: () => data(client.GET('/api/jobs')) });

/** What ended of all that one asked for. */
export const noticesQuery = queryOptions({ queryKey: ['notices'], queryFn: () => data(client.GET('/api/notices')) });

const PIECE = 1000;

/** What came in only ever grows at its end: what is here stays, and what came since is asked for and shown in pieces. */
export const arrivalsQuery = (id: number) =>
  queryOptions({
    queryKey: ['arrivals', id],
    queryFn: async ({ client: queries, signal }): Promise<Arrival[]> => {
      let all = queries.getQueryData<Arrival[]>(['arrivals', id]) ?? [];
      for (;;) {
        const query = { after: all.at(-1)?.id, most: PIECE };
        const more = await data(
          client.GET('/api/deliveries/{id}/arrivals', { params: { path: { id }, query }, signal }),
        );
        if (more.length > 0) all = all.concat(more);
        if (more.length < PIECE) return all;
        queries.setQueryData(['arrivals', id], all);
      }
    },
    structuralSharing: false,
    enabled: id > 0,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });

export const trialQuery = (id: number) =>
  queryOptions({
    queryKey: ['trial', id],
    queryFn: () => data(client.GET('/api/deliveries/{id}/trial', byID(id))),
    staleTime: 60_000,
  });

/** How many of the lines that are ready a house rule lets through. */
export const readyQuery = (id: number, rule: Rule, version: string | undefined) =>
  queryOptions({
    queryKey: ['ready', id, rule, version],
    queryFn: ({ signal }) =>
      data(client.GET('/api/deliveries/{id}/ready', { params: { path: { id }, query: { rule } }, signal })),
    enabled: version !== undefined,
    placeholderData: keepPreviousData,
  });

export const deliveryQuery = (id: number) =>
  queryOptions({
    queryKey: ['deliveries', id],
    queryFn: () => data(client.GET('/api/deliveries/{id}', byID(id))),
    enabled: id > 0,
  });

export const suppliersQuery = queryOptions({
  queryKey: ['deliveries', 'suppliers'],
  queryFn: () => data(client.GET('/api/suppliers')),
});

export const planQuery = (id: number) =>
  queryOptions({ queryKey: ['plan', id], queryFn: () => data(client.GET('/api/plans/{id}', byID(id))) });

export const runQuery = (id: number) =>
  queryOptions({
    queryKey: ['run', id],
    queryFn: () => data(client.GET('/api/runs/{id}', byID(id))),
    enabled: id > 0,
  });

export const changesPage = 200;

export const changesQuery = (plan: number, left: boolean) => ({
  queryKey: ['changes', plan, left],
  queryFn: ({ pageParam }: { pageParam: number }) =>
    data(
      client.GET('/api/plans/{id}/changes', {
        params: { path: { id: plan }, query: { after: pageParam, most: changesPage, left } },
      }),
    ),
  initialPageParam: 0,
  getNextPageParam: ({ lines }: { lines: { seq: number }[] }) =>
    lines.length < changesPage ? undefined : lines.at(-1)?.seq,
});

export const catalogueQuery = queryOptions({
  queryKey: ['products', 'counts'],
  queryFn: () => data(client.GET('/api/catalogue')),
});

export const categoriesQuery = queryOptions({
  queryKey: ['categories'],
  queryFn: async ({ signal }) => {
    const all: Category[] = [];
    for (;;) {
      const query = { after: all.at(-1)?.id, most: PIECE };
      const more = await data(client.GET('/api/categories', { params: { query }, signal }));
      all.push(...more);
      if (more.length < PIECE) return all.sort((a, b) => a.order - b.order || a.id - b.id);
    }
  },
});

export const cardQuery = (id: number) =>
  queryOptions({
    queryKey: ['card', id],
    queryFn: () => data(client.GET('/api/products/{id}', byID(id))),
    enabled: id > 0,
  });

/** This page's own name: a search by it ends the one before, also on the server. */
const page = Math.random().toString(36).slice(2);

export const ownersQuery = (q: string) =>
  queryOptions({
    queryKey: ['owners', q],
    queryFn: ({ signal }) => data(client.GET('/api/owners', { signal, params: { query: { q, page } } })),
    enabled: q.trim() !== '',
    placeholderData: keepPreviousData,
  });

export const tokensQuery = queryOptions({ queryKey: ['tokens'], queryFn: () => data(client.GET('/api/tokens')) });

export type Off = 'prefix' | 'suffix' | 'numbers' | 'folder' | 'key';

/** What is to be looked at again when a delivery was changed. */
export const deliveryTouched = [['deliveries'], ['arrivals'], ['trail']];

/** Like useAsk, for what a double click must not ask twice: while one is on its way, another gets the same answer. */
export function useAskOnce<In, Out>(ask: (input: In) => Promise<Out>, touched: readonly (readonly unknown[])[]) {
  const flight = useRef<Promise<Out>>(undefined);
  return useAsk((input: In) => {
    flight.current ??= ask(input).finally(() => {
      flight.current = undefined;
    });
    return flight.current;
  }, touched);
}

/** A change that asks the server and then looks again at what it touched. */
export function useAsk<In, Out>(ask: (input: In) => Promise<Out>, touched: readonly (readonly unknown[])[]) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ask,
    onSettled: () => Promise.all(touched.map((queryKey) => queries.invalidateQueries({ queryKey }))),
  });
}

export const ask = {
  decide: (id: number, decisions: Decision[]) =>
    data(client.PUT('/api/deliveries/{id}/decisions', { ...byID(id), body: decisions })),
  choose: (id: number, choice: { cells: Cell[]; off: Off[] }) =>
    data(client.PUT('/api/deliveries/{id}/ladder', { ...byID(id), body: choice })),
  order: (id: number, body: Schemas['Order'][]) =>
    data(client.PUT('/api/deliveries/{id}/order', { ...byID(id), body })),
  check: (id: number, body: { arrivals: number[]; right: boolean }) =>
    data(client.PUT('/api/deliveries/{id}/checked', { ...byID(id), body })),
  zip: (id: number, arrivals: number[]) =>
    data(client.POST('/api/deliveries/{id}/zip', { ...byID(id), body: { arrivals } })),
  readNotices: (upTo: number) => data(client.POST('/api/notices/read', { body: { upTo } })),
  undoStep: (id: number) => data(client.POST('/api/deliveries/{id}/undo', byID(id))),
  redo: (id: number) => data(client.POST('/api/deliveries/{id}/redo', byID(id))),
  plan: (id: number, rule: Rule) => data(client.POST('/api/deliveries/{id}/plans', { ...byID(id), body: { rule } })),
  release: (plan: number, lines: number[], reason: string) =>
    data(client.POST('/api/plans/{id}/release', { ...byID(plan), body: { lines, reason } })),
  apply: (plan: number, mail?: boolean) =>
    data(client.POST('/api/plans/{id}/apply', { params: { path: { id: plan }, query: { mail } } })),
  stopRun: (id: number) => data(client.POST('/api/runs/{id}/stop', byID(id))),
  resumeRun: (id: number) => data(client.POST('/api/runs/{id}/resume', byID(id))),
  undo: (id: number) => data(client.POST('/api/runs/{id}/undo', byID(id))),
};
