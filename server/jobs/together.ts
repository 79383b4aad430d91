import pLimit from 'p-limit';
import type { OnShare } from './tasks.ts';

/** Runs tasks side by side; when one fails, the others are cancelled, and the error comes once all have ended. */
export async function allOrNone<T extends unknown[]>(
  tasks: { [K in keyof T]: (signal: AbortSignal) => Promise<T[K]> },
  signal?: AbortSignal,
): Promise<T> {
  const failed = new AbortController();
  const either = signal ? AbortSignal.any([signal, failed.signal]) : failed.signal;
  let first: { error: unknown } | null = null;
  const running = tasks.map((task) =>
    task(either).catch((error: unknown) => {
      // The others fail as well, for having been cancelled: what came first is why.
      first ??= { error };
      failed.abort();
      throw first.error;
    }),
  );
  await Promise.allSettled(running);
  return Promise.all(running) as Promise<T>;
}

/** So many of many tasks are handed out at a time: as many as keep all threads busy. */
const AT_A_TIME = 4;

/** Runs many tasks, some at a time, and reports the share that is done; when one fails, the others are cancelled. */
export async function someAtATime<T>(
  tasks: ((signal: AbortSignal) => Promise<T>)[],
  signal: AbortSignal | undefined,
  onProgress: OnShare = () => {},
): Promise<T[]> {
  const inTurn = pLimit(AT_A_TIME);
  let done = 0;
  return allOrNone(
    tasks.map(
      (task) => (either: AbortSignal) =>
        inTurn(async () => {
          either.throwIfAborted();
          const result = await task(either);
          done += 1;
          onProgress(done / tasks.length);
          return result;
        }),
    ),
    signal,
  );
}

/** Things that are dealt out go to so many threads side by side. */
const THREADS = 2;

/**
 * Deals things out in turn, so that each thread has some of them, and runs a task for each such group.
 * @param run gives a result for each thing of its group, in their order
 * @returns the results in the order of the things
 */
export async function dealtOut<T, R>(
  things: T[],
  run: (group: T[], signal: AbortSignal, onProgress: OnShare) => Promise<R[]>,
  signal: AbortSignal | undefined,
  onProgress: OnShare,
): Promise<R[]> {
  const threads = Math.min(THREADS, things.length);
  const shareOf = meanOf(threads, onProgress);
  const parts = await allOrNone(
    Array.from({ length: threads }, (_, thread) => (either: AbortSignal) => {
      const group = things.filter((_thing, at) => at % threads === thread);
      return run(group, either, shareOf(thread));
    }),
    signal,
  );
  return things.map((_, at) => parts[at % threads][Math.floor(at / threads)]);
}

/** Reports the mean of several shares whenever one of them moves. */
export function meanOf(count: number, report: OnShare): (index: number) => OnShare {
  const shares = new Array<number>(count).fill(0);
  return (index) => (share) => {
    shares[index] = share;
    report(shares.reduce((sum, one) => sum + one, 0) / count);
  };
}
