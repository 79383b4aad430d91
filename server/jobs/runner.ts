import { availableParallelism } from 'node:os';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { DiskFullError } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { type OnShare, runTask, type Tasks } from './tasks.ts';
import type { WorkerFailure } from './worker.ts';

/** How a task is run: options for one run. */
export interface RunOptions {
  onProgress?: OnShare;
  signal?: AbortSignal;
}

/** Runs tasks somewhere; `close` waits for those that run, so cancel them first. */
export interface TaskRunner {
  run<Name extends keyof Tasks>(
    name: Name,
    input: Tasks[Name]['input'],
    options?: RunOptions,
  ): Promise<Tasks[Name]['output']>;
  close(): Promise<void>;
}

/**
 * Returns a runner on worker threads. A cancelled task ends at its next report of progress, cleans up after itself and
 * rejects with an AbortError.
 * @param workerFile the built module of `worker.ts`
 */
export function threadRunner(workerFile: string): TaskRunner {
  const poolOf = (maxThreads: number, idleTimeout: number) =>
    new Piscina({
      filename: workerFile,
      name: 'work',
      minThreads: 0,
      maxThreads,
      idleTimeout,
      resourceLimits: { maxYoungGenerationSizeMb: 8 },
    });
  const pool = poolOf(Math.max(2, availableParallelism()), 60_000);
  // A thread that has written a long file keeps much memory; it ends before the file is measured on others.
  const writers = poolOf(1, 0);
  const running = new Set<Promise<unknown>>();
  return {
    async run(name, input, { onProgress, signal } = {}) {
      signal?.throwIfAborted();
      const { port1, port2 } = new MessageChannel();
      const stop = () => port1.postMessage('stop');
      port1.on('message', (share: number) => onProgress?.(share));
      signal?.addEventListener('abort', stop);
      try {
        const work = (name === 'render' ? writers : pool).run(
          { name, input, port: port2 },
          { transferList: [port2] },
        );
        running.add(work);
        const result: unknown = await work.finally(() => running.delete(work));
        if (isFailure(result)) throw errorOf(result);
        return result as Tasks[typeof name]['output'];
      } finally {
        signal?.removeEventListener('abort', stop);
        port1.close();
      }
    },
    close: async () => {
      await Promise.allSettled(running);
      await Promise.all([pool.destroy(), writers.destroy()]);
    },
  };
}

/** Returns a runner in this thread, for tests and the command line. */
export function localRunner(): TaskRunner {
  return {
    run: (name, input, { onProgress = () => {} } = {}) => runTask(name, input, onProgress),
    close: async () => {},
  };
}

function isFailure(result: unknown): result is WorkerFailure {
  return typeof result === 'object' && result !== null && (result as { failed?: unknown }).failed === true;
}

function errorOf({ name, code, message }: WorkerFailure): Error {
  if (name === 'MediaError') return new MediaError((code ?? 'broken') as MediaError['code'], message);
  if (name === 'AbortError') return new DOMException(message, name);
  return name === 'DiskFullError' ? new DiskFullError() : new Error(message);
}
