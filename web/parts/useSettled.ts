import { useEffect, useState } from 'react';

/**
 * Returns a value once it has stayed the same for a while (ms): for long computations that need not follow each key.
 * @param first what is returned until then; the value itself when left out
 */
export function useSettled<T>(value: T, afterMs: number, first = value): T {
  const [settled, setSettled] = useState(first);
  useEffect(() => {
    if (settled === value) return;
    const timer = setTimeout(() => setSettled(value), afterMs);
    return () => clearTimeout(timer);
  }, [value, settled, afterMs]);
  return settled;
}
