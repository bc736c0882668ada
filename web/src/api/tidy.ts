import { keepPreviousData, queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from './client';

export type PackFind = Schemas['Pack'];
export type OrphanFind = Schemas['Orphan'];
export type TwiceFind = Schemas['Twice'];
export type CopyFind = Schemas['Copy'];
export type UnfitFind = Schemas['UnfitPicture'];
export type GapFind = Schemas['Gap'];
export type SharedFind = Schemas['Shared'];
export type BrokenFind = Schemas['Broken'];
export type BinnedFind = Schemas['Binned'];
export type TidyCounts = Schemas['Tidy'];
export type Limits = Schemas['Limits'];
export type TidyRule = Schemas['TidyRule'];

const PAGE = 100;

/** Some finds, and behind what the next are. */
interface Page<T, Cursor> {
  finds: T[];
  next?: Cursor;
}

/** Finds of one kind, as far as they are here. */
function useFinds<T, Cursor = number>(
  key: readonly unknown[],
  page: (after: Cursor | undefined, signal: AbortSignal) => Promise<Page<T, Cursor>>,
) {
  const pages = useInfiniteQuery({
    queryKey: ['tidy', ...key],
    queryFn: ({ pageParam, signal }) => page(pageParam as Cursor | undefined, signal),
    initialPageParam: undefined as Cursor | undefined,
    getNextPageParam: (last) => last.next || undefined,
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 10_000,
  });
  const all = useMemo(() => pages.data?.pages.flatMap((p) => p.finds), [pages.data]);
  return {
    all,
    error: pages.error,
    whole: !pages.hasNextPage,
    more: () => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage(),
  };
}

export const useOrphans = (only: boolean) =>
  useFinds<OrphanFind>(['orphans', only], (after, signal) =>
    data(client.GET('/api/tidy/orphans', { signal, params: { query: { after, only, most: PAGE } } })),
  );
export const useTwice = () =>
  useFinds<TwiceFind>(['twice'], (after, signal) =>
    data(client.GET('/api/tidy/twice', { signal, params: { query: { after, most: PAGE } } })),
  );
export const usePacks = () =>
  useFinds<PackFind>(['packs'], (after, signal) =>
    data(client.GET('/api/tidy/barcodes', { signal, params: { query: { after, most: PAGE } } })),
  );
export const useShared = () =>
  useFinds<SharedFind>(['shared'], (after, signal) =>
    data(client.GET('/api/tidy/shared', { signal, params: { query: { after, most: PAGE } } })),
  );
export const useUnfit = (faults: string, everywhere: boolean) =>
  useFinds<UnfitFind>(['unfit', faults, everywhere], (after, signal) =>
    data(client.GET('/api/tidy/unfit', { signal, params: { query: { after, faults, everywhere, most: PAGE } } })),
  );
export const useGaps = (gaps: string, within?: number) =>
  useFinds<GapFind>(['gaps', gaps, within], (after, signal) =>
    data(client.GET('/api/tidy/gaps', { signal, params: { query: { after, gaps, in: within, most: PAGE } } })),
  );
export const useBroken = () =>
  useFinds<BrokenFind>(['broken'], (after, signal) =>
    data(client.GET('/api/tidy/broken', { signal, params: { query: { after, most: PAGE } } })),
  );

/** What lies in the bin, the longest first. */
export const useBin = () =>
  useFinds<BinnedFind, string>(['bin'], async (after, signal) => {
    const { pictures, next } = await data(
      client.GET('/api/tidy/bin', { signal, params: { query: { after, most: PAGE } } }),
    );
    return { finds: pictures, next };
  });

export const tidyQuery = queryOptions({ queryKey: ['tidy', 'counts'], queryFn: () => data(client.GET('/api/tidy')) });
export const coverageQuery = queryOptions({
  queryKey: ['tidy', 'coverage'],
  queryFn: () => data(client.GET('/api/tidy/coverage')),
});
export const storageQuery = queryOptions({
  queryKey: ['tidy', 'storage'],
  queryFn: () => data(client.GET('/api/tidy/storage')),
});
export const limitsQuery = queryOptions({
  queryKey: ['tidy', 'limits'],
  queryFn: () => data(client.GET('/api/tidy/limits')),
});
export const rulesQuery = queryOptions({
  queryKey: ['tidy', 'rules'],
  queryFn: () => data(client.GET('/api/tidy/rules', { params: { query: {} } })),
});
export const breaksQuery = queryOptions({
  queryKey: ['tidy', 'breaks'],
  queryFn: () => data(client.GET('/api/tidy/breaks', { params: { query: {} } })),
});

export const tidy = {
  plan: (body: Schemas['PlanTidyRequest']) => data(client.POST('/api/tidy/plans', { body })),
  find: () => data(client.POST('/api/tidy/find')),
  correct: (body: NonNullable<Schemas['PlanPackBarcodesRequest']>) =>
    data(client.POST('/api/tidy/barcodes/plans', { body })),
  scrub: () => data(client.POST('/api/tidy/scrub')),
  strays: () => data(client.POST('/api/tidy/strays/delete')),
  empty: (body: Schemas['EmptyBinRequest']) => data(client.POST('/api/tidy/empty', { body })),
  setLimits: (body: Limits) => data(client.PUT('/api/tidy/limits', { body })),
  addRule: (body: Schemas['AddTidyRuleRequest']) => data(client.POST('/api/tidy/rules', { body })),
  removeRule: (id: number) => data(client.DELETE('/api/tidy/rules/{id}', { params: { path: { id } } })),
};
