/** Returns a function that passes on what it is called with, but not more often than this (ms). */
export function throttled<T>(everyMs: number, report: (value: T) => void): (value: T) => void {
  let last = 0;
  return (value) => {
    const now = Date.now();
    if (now - last < everyMs) return;
    last = now;
    report(value);
  };
}
