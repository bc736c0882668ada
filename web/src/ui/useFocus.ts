import { useEffect, useRef } from 'react';

/**
 * Where the line in focus stands in the list, by its id. Where it has left the list, what took its place has the focus; without an
 * id, the first.
 */
export function useFocus(list: { id: number }[], id: number | undefined): number {
  const last = useRef(0);
  const found = id === undefined ? 0 : list.findIndex((l) => l.id === id);
  const at = Math.max(0, Math.min(found < 0 ? last.current : found, list.length - 1));
  useEffect(() => {
    last.current = at;
  }, [at]);
  return at;
}
