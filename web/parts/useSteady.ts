import { useCallback, useLayoutEffect, useRef } from 'react';

/** Returns a function that keeps its identity and calls the newest one, so that memoised components need not render again. */
export function useSteady<A extends unknown[]>(newest: (...args: A) => void): (...args: A) => void {
  const latest = useRef(newest);
  useLayoutEffect(() => {
    latest.current = newest;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
