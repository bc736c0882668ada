import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef } from 'react';
import { client, type Delivery, data } from './client';
import type { Rule } from './queries';

const PAGE = 100;

/** A list as far as it is here, newest first, and how to have more of it; nothing where there is no more. */
interface Pages<T> {
  all: T[] | undefined;
  more: (() => void) | undefined;
}

function useNewestFirst<T extends { id: number }>(
  key: readonly unknown[],
  page: (before: number) => Promise<T[]>,
): Pages<T> {
  const { data, hasNextPage, isFetching, fetchNextPage } = useInfiniteQuery({
    queryKey: key,
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) => page(pageParam),
    initialPageParam: 0,
    getNextPageParam: (last: T[]) => (last.length < PAGE ? undefined : last.at(-1)?.id),
  });
  const all = useMemo(() => data?.pages.flat(), [data]);
  return { all, more: hasNextPage ? () => !isFetching && void fetchNextPage() : undefined };
}

/** Which deliveries a rail shows. */
export interface Wanted {
  q?: string;
  state?: Delivery['state'];
  supplier?: string;
  closed: 'no' | 'yes' | 'all';
}

export const useDeliveries = (wanted: Wanted = { closed: 'no' }) =>
  useNewestFirst(['deliveries', wanted], (before) =>
    data(client.GET('/api/deliveries', { params: { query: { before, most: PAGE, ...wanted } } })),
  );

export const useRuns = () =>
  useNewestFirst(['runs'], (before) => data(client.GET('/api/runs', { params: { query: { before, most: PAGE } } })));

export const useTables = (closed: boolean) =>
  useNewestFirst(['tables', closed], (before) =>
    data(client.GET('/api/tables', { params: { query: { before, most: PAGE, closed } } })),
  );

/** Which products a board shows: in a category or below it, without a picture, found by words. */
export interface Shown {
  in?: number;
  without: boolean;
  /** Only those that show a picture whose rights end soon. */
  ending?: boolean;
  /** Those that are retired; the others otherwise. */
  retired?: boolean;
  q?: string;
}

/** Products in the order of the catalogue, as far as they are here. */
export function useProducts(shown: Shown) {
  const pages = useInfiniteQuery({
    queryKey: ['products', shown],
    queryFn: ({ pageParam, signal }) =>
      data(client.GET('/api/products', { signal, params: { query: { ...shown, after: pageParam, most: 2 * PAGE } } })),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (last) => last.next,
    placeholderData: keepPreviousData,
  });
  const all = useMemo(() => pages.data?.pages.flatMap((p) => p.products), [pages.data]);
  const more = () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage();
  return { all, more, whole: !pages.hasNextPage, fetchAll: () => fetchAll(pages) };
}

interface Fetching {
  hasNextPage: boolean;
  fetchNextPage: () => Promise<Fetching>;
}

/** Fetches the pages of a list that are not here yet, one after the other. */
export async function fetchAll(pages: Fetching) {
  let now = pages;
  while (now.hasNextPage) now = await now.fetchNextPage();
}

/** What owners of a delivery have and would have, as far as they are here; asked for again when the delivery's version changes. */
export function useByOwner(delivery: number, rule: Rule, version: string) {
  const pages = useInfiniteQuery({
    queryKey: ['byOwner', delivery, rule],
    queryFn: ({ pageParam: after, signal }) =>
      data(
        client.GET('/api/deliveries/{id}/owners', {
          signal,
          params: { path: { id: delivery }, query: { rule, after } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
  const { refetch } = pages;
  const asked = useRef(version);
  useEffect(() => {
    if (asked.current === version) return;
    asked.current = version;
    void refetch();
  }, [version, refetch]);
  const views = useMemo(() => pages.data?.pages.flatMap((p) => p.views), [pages.data]);
  const more = pages.hasNextPage ? () => !pages.isFetching && void pages.fetchNextPage() : undefined;
  return { views, more, error: pages.error, fetchAll: () => fetchAll(pages) };
}
