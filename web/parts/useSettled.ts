import { useEffect, useState } from 'react';

/** Returns a value once it has stayed the same for a while (ms): for long computations that need not follow each key. */
export function useSettled<T>(value: T, afterMs: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    if (settled === value) return;
    const timer = setTimeout(() => setSettled(value), afterMs);
    return () => clearTimeout(timer);
  }, [value, settled, afterMs]);
  return settled;
}
