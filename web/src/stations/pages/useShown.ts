import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { askPages } from '../../api/guides';

/** A page that is shown, what the selector of a step finds on it, and what was pointed at. */
export function useShown(address: string, selector: string) {
  const [numbers, setNumbers] = useState<number[]>([]);
  const [refused, setRefused] = useState('');
  const read = useQuery({
    queryKey: ['page', address],
    queryFn: () => askPages.show(address),
    enabled: address !== '',
    staleTime: 600_000,
    retry: false,
  });
  const page = address ? read.data : undefined;
  const found = useQuery({
    queryKey: ['page', page?.id, selector],
    queryFn: () => askPages.point({ page: page?.id ?? '', selector }),
    enabled: Boolean(page?.id && selector),
    placeholderData: keepPreviousData,
    retry: false,
  });
  // What was pointed at is of this page and this step alone.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page or another step begins anew
  useEffect(() => setNumbers([]), [page?.id, selector === '']);
  return {
    page,
    busy: read.isFetching,
    error: refused || read.error?.message || (selector && found.error?.message),
    found: selector ? found.data : undefined,
    numbers,
    clear: () => setNumbers([]),
    /** Points at one more element and returns the selector that holds for it and the one before. */
    point: async (number: number, many: boolean) => {
      if (!page?.id) return undefined;
      const next = many ? [...numbers.slice(-1), number] : [number];
      setNumbers(next);
      setRefused('');
      try {
        return (await askPages.point({ page: page.id, numbers: next, many })).selector;
      } catch (error) {
        setNumbers([number]);
        setRefused(error instanceof Error ? error.message : String(error));
        return undefined;
      }
    },
  };
}
