import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { localRunner, type RunOptions, type TaskRunner, threadRunner } from '../server/jobs/runner.ts';
import { showProgress } from './print.ts';

/** The worker is built beside the command. */
const workerFile = fileURLToPath(new URL('./worker.js', import.meta.url));

/**
 * Does something with a runner of tasks that uses every core, where the worker is there.
 * @param work is given a signal for what may be broken off: the first Ctrl C stops that, and lets it clean up; the second ends the command at once
 */
export async function withRunner<T>(
  work: (runner: TaskRunner, signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const runner = existsSync(workerFile) ? threadRunner(workerFile) : localRunner();
  const { signal, forget } = onStop();
  return work(runner, signal).finally(() => {
    forget();
    return runner.close();
  });
}

/** The same for one piece of work, whose progress is shown under a name. */
export async function working<T>(
  name: string,
  work: (runner: TaskRunner, options: Required<RunOptions>) => Promise<T>,
): Promise<T> {
  const show = (share: number) => showProgress(`${name}: ${Math.floor(100 * share)} %`);
  return withRunner(async (runner, signal) => {
    show(0);
    return work(runner, { signal, onProgress: show }).finally(() => showProgress(''));
  });
}

/** Tells when the command is to end (Ctrl C); what runs then is finished first. A second time ends it at once. */
export function stopSignal(): AbortSignal {
  return onStop().signal;
}

function onStop(): { signal: AbortSignal; forget: () => void } {
  const stop = new AbortController();
  const abort = () => stop.abort();
  const signals = ['SIGINT', 'SIGTERM'] as const;
  for (const one of signals) process.once(one, abort);
  return {
    signal: stop.signal,
    forget: () => {
      for (const one of signals) process.off(one, abort);
    },
  };
}
