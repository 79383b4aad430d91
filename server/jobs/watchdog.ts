/** How often it looks (s). Time in which this process did not run at all (a laptop asleep) counts as one look. */
const LOOK_S = 1;

/** Watches something that is to report progress. */
export interface Watchdog {
  /** To be called at each report; the first starts the watch. */
  progress(): void;
  /** From now on, progress or not, it has so long (s) to end. */
  limit(seconds: number, onLate: () => void): void;
  end(): void;
}

/**
 * Returns a watchdog that calls `onStall` (once) when there was no report of progress for so many seconds since the last
 * one. It waits for the first report, which says that the work has begun.
 */
export function watchProgress(stallS: number, onStall: () => void): Watchdog {
  let timer: NodeJS.Timeout | undefined;
  let looks = 0;
  const count = (seconds: number, onLate: () => void) => {
    clearInterval(timer);
    looks = 0;
    const everyS = Math.min(LOOK_S, seconds / 4);
    timer = setInterval(() => {
      looks += 1;
      if (looks * everyS < seconds) return;
      clearInterval(timer);
      onLate();
    }, everyS * 1000);
    timer.unref();
  };
  let isLimited = false;
  let hasStarted = false;
  return {
    progress: () => {
      looks = isLimited ? looks : 0;
      if (hasStarted) return;
      hasStarted = true;
      if (!isLimited) count(stallS, onStall);
    },
    limit: (seconds, onLate) => {
      isLimited = true;
      count(seconds, onLate);
    },
    end: () => clearInterval(timer),
  };
}
