import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { localRunner, type TaskRunner, threadRunner } from '../server/jobs/runner.ts';

/** The worker is built beside the command. */
const workerFile = fileURLToPath(new URL('./worker.js', import.meta.url));

/** Does something with a runner of tasks that uses every core, where the worker is there. */
export async function withRunner<T>(work: (runner: TaskRunner) => Promise<T>): Promise<T> {
  const runner = existsSync(workerFile) ? threadRunner(workerFile) : localRunner();
  return work(runner).finally(() => runner.close());
}

/** Tells when the command is to end (Ctrl C); what runs then is finished first. A second time ends it at once. */
export function stopSignal(): AbortSignal {
  const stop = new AbortController();
  process.once('SIGINT', () => stop.abort());
  process.once('SIGTERM', () => stop.abort());
  return stop.signal;
}
