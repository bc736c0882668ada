import { keepPreviousData, queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from './client';
import { fetchAll } from './pages';

export type PictureCard = Schemas['PictureCard'];
export type PictureFacts = Schemas['PictureFacts'];
export type PictureAct = Schemas['Act'];

/** Which pictures are meant. */
export interface Wanted {
  q?: string;
  is?: string;
  source?: number;
  like?: string;
}

const PAGE = 200;

/** All pictures that are meant, as far as they are here, the newest first, with the counts of the filters. */
export function usePictures(wanted: Wanted) {
  const pages = useInfiniteQuery({
    queryKey: ['gallery', wanted],
    queryFn: ({ pageParam: before, signal }) =>
      data(client.GET('/api/gallery', { signal, params: { query: { ...wanted, before, most: PAGE } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.pictures.length < PAGE ? undefined : last.pictures.at(-1)?.id),
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 10_000,
  });
  const all = useMemo(() => pages.data?.pages.flatMap((p) => p.pictures), [pages.data]);
  return {
    all,
    found: pages.data?.pages[0],
    error: pages.error,
    whole: !pages.hasNextPage,
    more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage(),
    fetchAll: () => fetchAll(pages),
  };
}

export const factsQuery = (sha: string | undefined) =>
  queryOptions({
    queryKey: ['gallery', 'facts', sha],
    queryFn: ({ signal }) => data(client.GET('/api/pictures/{sha}', { signal, params: { path: { sha: sha ?? '' } } })),
    enabled: sha !== undefined,
    placeholderData: keepPreviousData,
  });

/** All that a picture came by. */
export const waysQuery = (sha: string | undefined) =>
  queryOptions({
    queryKey: ['gallery', 'ways', sha],
    queryFn: ({ signal }) =>
      data(client.GET('/api/pictures/{sha}/ways', { signal, params: { path: { sha: sha ?? '' }, query: {} } })),
    enabled: sha !== undefined,
  });

/** Pictures that speak for an owner, the best first. */
export const ownerOffersQuery = (owner: number) =>
  queryOptions({
    queryKey: ['gallery', 'offers', owner],
    queryFn: ({ signal }) =>
      data(client.GET('/api/owners/{id}/offers', { signal, params: { path: { id: owner }, query: {} } })),
    enabled: owner > 0,
  });

export const gallery = {
  plan: (body: PictureAct) => data(client.POST('/api/gallery/plans', { body })),
  numbers: (query: Wanted) => data(client.GET('/api/gallery/numbers', { params: { query } })),
  zip: (pictures: number[]) => data(client.POST('/api/gallery/zip', { body: { pictures } })),
  look: (file: Blob) =>
    data(
      client.POST('/api/gallery/look', {
        body: file as never,
        bodySerializer: (b: unknown) => b as Blob,
        headers: { 'Content-Type': 'application/octet-stream' },
      }),
    ),
};
