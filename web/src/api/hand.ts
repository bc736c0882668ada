import { keepPreviousData, queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from './client';
import { fetchAll } from './pages';

export type OwnerEdit = Schemas['OwnerEdit'];
export type OwnerFields = Schemas['OwnerFields'];
export type PicturedOwner = Schemas['PicturedOwner'];
export type TextPicture = Schemas['TextPicture'];
export type HandPlan = Schemas['HandPlan'];
export type Arrived = Schemas['Arrived'];
export type Search = Schemas['SearchedOwners'];
export type KeptRule = Schemas['KeptRule'];
export type TextRule = Schemas['Rule'];
export type TextAct = Schemas['TextAct'];
export type TextScope = Schemas['TextScope'];
export type ShopPage = Schemas['Shop'];
export type ShopItem = Schemas['ShopItem'];
export type TextField = TextRule['field'];
export const TEXT_FIELDS: TextField[] = ['alt', 'title', 'caption', 'description', 'file_name'];

/** Which owners a board of pictures shows, and which of their texts. */
export interface Pictured {
  kind: 'product' | 'category';
  in?: number;
  without?: boolean;
  retired?: boolean;
  q?: string;
  field?: TextField;
  language?: string;
}

const PIECE = 200;

/** Owners with their pictures in the order of the catalogue, as far as they are here; with what an act would make of their texts. */
export function usePictured(shown: Pictured, act?: TextAct, enabled = true) {
  const pages = useInfiniteQuery({
    queryKey: ['pictured', shown, act ?? null],
    queryFn: ({ pageParam: after, signal }) => {
      const params = { query: { ...shown, after, most: PIECE } };
      return data(
        act
          ? client.POST('/api/wording/preview', { signal, params, body: act })
          : client.GET('/api/pictured', { signal, params }),
      );
    },
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (last) => last.next,
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 10_000,
    enabled,
  });
  const all = useMemo(() => pages.data?.pages.flatMap((p) => p.owners), [pages.data]);
  return {
    all,
    error: pages.error,
    total: pages.data?.pages[0]?.total,
    whole: !pages.hasNextPage,
    more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage(),
    fetchAll: () => fetchAll(pages),
  };
}

/** An owner's own fields. */
export const ownerQuery = (id: number) =>
  queryOptions({
    queryKey: ['card', 'owner', id],
    queryFn: () => data(client.GET('/api/owners/{id}', { params: { path: { id } } })),
    enabled: id > 0,
  });

const OFFERS = 2000;

/** The pictures that are offered to categories without one. */
export const offersQuery = queryOptions({
  queryKey: ['products', 'offers'],
  queryFn: async ({ signal }) => {
    const all: Schemas['Offer'][] = [];
    for (;;) {
      const query = { after: all.at(-1)?.category, most: OFFERS };
      const more = await data(client.GET('/api/categories/offers', { params: { query }, signal }));
      all.push(...more);
      if (more.length < OFFERS) return all;
    }
  },
});

const ARRIVED = 60;

/** All pictures as they came, the newest first, as far as they are here. */
export function useArrived(q: string, delivery: number) {
  const pages = useInfiniteQuery({
    queryKey: ['arrived', q, delivery],
    queryFn: ({ pageParam: before, signal }) =>
      data(client.GET('/api/pictures', { signal, params: { query: { q, delivery, before, most: ARRIVED } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < ARRIVED ? undefined : last.at(-1)?.id),
    placeholderData: keepPreviousData,
  });
  const all = useMemo(() => {
    const seen = new Set<string>();
    return pages.data?.pages.flat().filter((p) => !seen.has(p.sha) && seen.add(p.sha));
  }, [pages.data]);
  return { all, more: pages.hasNextPage ? () => void pages.fetchNextPage() : undefined, busy: pages.isFetching };
}

const RULES = 100;

/** All rules by which texts are made, by field and language. */
export const wordingRulesQuery = queryOptions({
  queryKey: ['wording-rules'],
  queryFn: async ({ signal }) => {
    const all: KeptRule[] = [];
    for (let after: number | undefined = 0; after !== undefined; ) {
      const rules: KeptRule[] = await data(
        client.GET('/api/wording/rules', { signal, params: { query: { after, most: RULES } } }),
      );
      all.push(...rules);
      after = rules.length < RULES ? undefined : rules.at(-1)?.id;
    }
    return all.sort((a, b) => a.field.localeCompare(b.field) || a.language.localeCompare(b.language) || a.id - b.id);
  },
});

/** A page as a customer sees it. */
export const shopQuery = (id: number, plan: number, side: 'now' | 'before' | 'after', language: string) =>
  queryOptions({
    queryKey: ['card', 'shop', id, plan, side, language],
    queryFn: () =>
      data(
        client.GET('/api/shop/{id}', { params: { path: { id }, query: { plan: plan || undefined, side, language } } }),
      ),
    placeholderData: keepPreviousData,
  });

export const askHand = {
  plan: (edits: OwnerEdit[]) => data(client.POST('/api/owners/plans', { body: { edits } })),
  order: (owners: number[]) => data(client.POST('/api/owners/order', { body: { owners } })),
  everywhere: (body: {
    search: Search;
    sha: string;
    rule: 'only_where_empty' | 'add_after' | 'same_place' | 'whole_set';
    title: string;
  }) => data(client.POST('/api/owners/everywhere', { body })),
  offered: (categories: number[], title: string) =>
    data(client.POST('/api/categories/offered', { body: { categories, title } })),
  fetch: (addresses: string[], title: string) =>
    data(client.POST('/api/pictures/fetch', { body: { addresses, title } })),
};

export const askWording = {
  addRule: (body: TextRule) => data(client.POST('/api/wording/rules', { body })),
  setRule: ({ id, ...body }: TextRule & { id: number }) =>
    data(client.PUT('/api/wording/rules/{id}', { params: { path: { id } }, body })),
  removeRule: (id: number) => data(client.DELETE('/api/wording/rules/{id}', { params: { path: { id } } })),
  plan: (body: TextAct & { scope: TextScope; title: string }) => data(client.POST('/api/wording/plans', { body })),
  fill: ({ plan, on }: { plan: number; on: boolean }) =>
    data(client.PUT('/api/plans/{id}/texts', { params: { path: { id: plan } }, body: { on } })),
};
