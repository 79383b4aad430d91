/** The median of some figures. */
export function median(values: number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
}

/** How long some work takes (ms): the median of several runs. */
export function timed(runs: number, work: () => void): number {
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return median(times);
}
