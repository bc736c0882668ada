import { useCallback, useLayoutEffect, useRef } from 'react';

/** A function that stays the same from drawing to drawing and does what the last one given does: so that what takes it is not drawn again. */
export function useStable<In extends unknown[], Out>(does: (...input: In) => Out): (...input: In) => Out {
  const latest = useRef(does);
  useLayoutEffect(() => {
    latest.current = does;
  });
  return useCallback((...input: In) => latest.current(...input), []);
}
