import { useCallback, useLayoutEffect, useRef } from 'react';

/** Returns a function that stays the same and does what the newest one does: what it is handed to is not drawn anew for it. */
export function useSteady<A extends unknown[]>(newest: (...args: A) => void): (...args: A) => void {
  const latest = useRef(newest);
  useLayoutEffect(() => {
    latest.current = newest;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
