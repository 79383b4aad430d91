import { median } from '../core/median.ts';

/** Before it is timed, work is done so often, as it would have been in a session: the engine compiles what is run often. */
const WARM_UPS = 8;

/** How long some work takes (ms): the median of several runs. */
export function timed(runs: number, work: () => void): number {
  for (let i = 0; i < WARM_UPS; i++) work();
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return median(times);
}
