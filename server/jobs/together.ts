import type { OnShare } from './tasks.ts';

/** Runs tasks side by side; when one fails, the others are cancelled, and the error comes once all have ended. */
export async function allOrNone<T>(
  tasks: ((signal: AbortSignal) => Promise<T>)[],
  signal?: AbortSignal,
): Promise<T[]> {
  const failed = new AbortController();
  const either = signal ? AbortSignal.any([signal, failed.signal]) : failed.signal;
  const running = tasks.map((task) =>
    task(either).catch((error) => {
      failed.abort();
      throw error;
    }),
  );
  await Promise.allSettled(running);
  return Promise.all(running);
}

/** Reports the mean of several shares whenever one of them moves. */
export function meanOf(count: number, report: OnShare): (index: number) => OnShare {
  const shares = new Array<number>(count).fill(0);
  return (index) => (share) => {
    shares[index] = share;
    report(shares.reduce((sum, one) => sum + one, 0) / count);
  };
}
