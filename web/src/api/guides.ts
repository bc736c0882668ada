import { queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from './client';

export type Guide = Schemas['Guide'];
export type Pointed = Schemas['PointedElements'];
export type Rule = Schemas['GuideRule'];
export type Inferred = Schemas['InferredRule'];
export type WalkState = Schemas['WalkState'];
export type WalkedPicture = Schemas['WalkedPicture'];
export type WalkedItem = Omit<Schemas['WalkedItem'], 'pictures'> & {
  id: number;
  pictures: { address: string; width: number; height: number }[];
};

export interface Says {
  code: string;
  data?: Record<string, unknown>;
}

/** A picture of a page, and what becomes of it. */
export interface Found {
  address: string;
  shown: string;
  element?: number;
  alt?: string;
  from: string;
  width: number;
  height: number;
  bytes: number;
  order: number;
  why?: string;
  says?: Says;
  remarks?: Says[];
}

/** A line of a try: a page of the listing, or an item. */
export interface Tried {
  page?: string;
  items?: number;
  next?: string;
  item?: string;
  title?: string;
  sku?: string;
  barcode?: string;
  failed?: string[];
  rules?: Inferred[];
  pictures?: Found[];
  says?: Says;
  done?: boolean;
  why?: string;
}

/** A line of a page by eye: the page, or a picture. */
export interface Glance {
  address?: string;
  title?: string;
  sku?: string;
  count?: number;
  taken?: { address: string; name?: string; owner: number; title: string; sku?: string; person: string; at: string }[];
  picture?: Found;
  says?: Says;
  done?: boolean;
  why?: string;
}

export const throughURL = (address: string) => `/api/pages/picture?address=${encodeURIComponent(address)}`;

export const guideQuery = (id: number, version = 0) =>
  queryOptions({
    queryKey: ['guide', id, version],
    queryFn: () => data(client.GET('/api/sources/{id}/guide', { params: { path: { id }, query: { version } } })),
  });

export const guidesQuery = (id: number) =>
  queryOptions({
    queryKey: ['guide', id, 'versions'],
    queryFn: () => data(client.GET('/api/sources/{id}/guides', { params: { path: { id } } })),
  });

export const walkQuery = (id: number, working: boolean) =>
  queryOptions({
    queryKey: ['deliveries', 'walk', id],
    queryFn: () => data(client.GET('/api/walks/{id}', { params: { path: { id } } })),
    refetchInterval: working ? 1000 : false,
  });

const ITEMS = 500;

/** What a walk read, in the order of the listing, as far as it is here. */
export function useWalkItems(id: number, of: 'without' | 'problem' | undefined, working: boolean) {
  const pages = useInfiniteQuery({
    queryKey: ['deliveries', 'walk', id, 'items', of],
    queryFn: ({ pageParam: after }) =>
      data(client.GET('/api/walks/{id}/items', { params: { path: { id }, query: { of, after, most: ITEMS } } })),
    initialPageParam: 0,
    getNextPageParam: (last: Schemas['WalkedItem'][]) => (last.length < ITEMS ? undefined : last.at(-1)?.n),
    refetchInterval: working ? 2000 : false,
  });
  const items = useMemo(
    () => pages.data?.pages.flat().map((i) => ({ ...i, id: i.n, pictures: i.pictures as WalkedItem['pictures'] })),
    [pages.data],
  );
  return { items, more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage() };
}

export const walkPicturesQuery = (id: number, n: number) =>
  queryOptions({
    queryKey: ['deliveries', 'walk', id, 'item', n],
    queryFn: () => data(client.GET('/api/walks/{id}/items/{n}/pictures', { params: { path: { id, n } } })),
    enabled: n > 0,
  });

export const askPages = {
  show: (address: string) => data(client.POST('/api/pages', { body: { address } })),
  point: ({ page, ...body }: { page: string; numbers?: number[]; many?: boolean; selector?: string }) =>
    data(client.POST('/api/pages/{page}/points', { params: { path: { page } }, body })),
  rule: (examples: Schemas['GuideExample'][], small: string[]) =>
    data(client.POST('/api/pages/rules', { body: { examples, small } })),
  keep: (id: number, body: Guide) => data(client.PUT('/api/sources/{id}/guide', { params: { path: { id } }, body })),
  walk: (id: number, most: number, addresses: boolean) =>
    data(client.POST('/api/sources/{id}/visits', { params: { path: { id } }, body: { most, addresses } })),
  table: (id: number) => data(client.POST('/api/walks/{id}/table', { params: { path: { id } } })),
  taken: (body: Schemas['TakenPictures']) => data(client.POST('/api/pages/taken', { body })),
};

/** What a lookup would ask for. */
export const aheadQuery = (id: number) =>
  queryOptions({
    queryKey: ['deliveries', 'lookup-ahead', id],
    queryFn: () => data(client.GET('/api/sources/{id}/lookup', { params: { path: { id } } })),
  });

/** How a run of a lookup went. */
export const lookupQuery = (id: number, working: boolean) =>
  queryOptions({
    queryKey: ['deliveries', 'lookup', id],
    queryFn: () => data(client.GET('/api/lookups/{id}', { params: { path: { id } } })),
    refetchInterval: working ? 1000 : false,
  });

export const askLookup = (id: number) => data(client.POST('/api/sources/{id}/lookup', { params: { path: { id } } }));
