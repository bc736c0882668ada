import { queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { client, data, type Schemas } from './client';

export type Photo = Schemas['Photo'];
export type PhotoCode = Schemas['PhotoCode'];
export type Series = Schemas['Series'];

const PAGE = 200;

/** What a photo says of itself. */
export const photoQuery = (sha = '') =>
  queryOptions({
    queryKey: ['photo', sha],
    queryFn: ({ signal }) => data(client.GET('/api/pictures/{sha}/photo', { params: { path: { sha } }, signal })),
    enabled: sha !== '',
    staleTime: 20_000,
  });

/** A delivery's series as far as they are here, of the pairing in hand. */
export const useSeries = (id: number, version: string) =>
  useInfiniteQuery({
    queryKey: ['series', id, version],
    queryFn: ({ pageParam, signal }) =>
      data(
        client.GET('/api/deliveries/{id}/series', {
          params: { path: { id }, query: { from: pageParam, most: PAGE } },
          signal,
        }),
      ),
    initialPageParam: 0,
    placeholderData: (before) => before,
    getNextPageParam: (last, all) => (all.length * PAGE < last.total ? all.length * PAGE : undefined),
  });
