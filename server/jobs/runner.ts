import { availableParallelism } from 'node:os';
import { MessageChannel } from 'node:worker_threads';
import pLimit from 'p-limit';
import { Piscina } from 'piscina';
import { DiskFullError, StorageError } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { type OnShare, runTask, type Tasks } from './tasks.ts';
import { watchProgress } from './watchdog.ts';
import type { WorkerFailure, WorkerReport } from './worker.ts';

/** How a task is run: options for one run. */
export interface RunOptions {
  onProgress?: OnShare;
  signal?: AbortSignal;
}

/** Runs tasks somewhere; `close` ends those that run. */
export interface TaskRunner {
  run<Name extends keyof Tasks>(
    name: Name,
    input: Tasks[Name]['input'],
    options?: RunOptions,
  ): Promise<Tasks[Name]['output']>;
  close(): Promise<void>;
}

/** Options of a runner on threads. */
export interface ThreadRunnerOptions {
  /** A task that reports no progress for this long is ended, with its thread (s). */
  stallS?: number;
  /** A task that was told to stop has this long to do so by itself, then its thread is ended (s). */
  stopS?: number;
  /** No task needs more of JavaScript's own memory than this (MB); decoded sound lies outside of it. */
  mostHeapMb?: number;
}

/** Thrown when a task made no progress and was ended. */
export class StalledError extends Error {
  constructor(stallS: number) {
    super(
      `No progress was made for ${stallS} seconds, so the work was ended; nothing was changed. A recording is probably damaged: export or copy it again, and try once more.`,
    );
    this.name = 'StalledError';
  }
}

const STALL_S = 60;
const STOP_S = 10;
/** When the server ends, tasks have this long (s). */
const CLOSE_S = 8;
const MOST_HEAP_MB = 2048;

/**
 * Returns a runner on worker threads. A cancelled task ends at its next report of progress, cleans up after itself and
 * rejects with an AbortError. A task that reports nothing for a minute is ended with its thread and rejects with a
 * {@link StalledError}; a thread in which a task failed in an unexpected way is replaced.
 * @param workerFile the built module of `worker.ts`
 */
export function threadRunner(
  workerFile: string,
  { stallS = STALL_S, stopS = STOP_S, mostHeapMb = MOST_HEAP_MB }: ThreadRunnerOptions = {},
): TaskRunner {
  const poolOf = (maxThreads: number, idleTimeout: number) => ({
    // Tasks wait here, not in the pool: what waits in the pool is not woken when a thread is ended.
    inTurn: pLimit(maxThreads),
    threads: new Piscina({
      filename: workerFile,
      name: 'work',
      minThreads: 0,
      maxThreads,
      idleTimeout,
      resourceLimits: { maxYoungGenerationSizeMb: 8, maxOldGenerationSizeMb: mostHeapMb },
    }),
  });
  const pool = poolOf(Math.max(2, availableParallelism()), 60_000);
  // A thread that has written a long file keeps much memory; it ends before the file is measured on others.
  const writers = poolOf(1, 0);
  const running = new Set<Promise<unknown>>();
  const stops = new Set<() => void>();
  let isClosing = false;
  return {
    async run(name, input, { onProgress, signal } = {}) {
      signal?.throwIfAborted();
      const { port1, port2 } = new MessageChannel();
      const thread = new AbortController();
      const end = (reason: Error) => thread.abort(reason);
      const watchdog = watchProgress(stallS, () => end(new StalledError(stallS)));
      let isHandedOver = false;
      // A thread that is still loading must not be ended: native code that is being loaded would take the process with it.
      const stop = () => {
        if (!isHandedOver) return end(aborted());
        port1.postMessage('stop');
        watchdog.limit(stopS, () => end(aborted()));
      };
      port1.on('message', (report: WorkerReport) => {
        if ('failure' in report) return end(errorOf(report.failure));
        watchdog.progress();
        onProgress?.(report.share);
      });
      signal?.addEventListener('abort', stop);
      stops.add(stop);
      try {
        const { inTurn, threads } = name === 'render' ? writers : pool;
        const work = inTurn(async () => {
          thread.signal.throwIfAborted();
          if (isClosing) throw aborted();
          isHandedOver = true;
          const run = threads.run(
            { name, input, port: port2 },
            { transferList: [port2], signal: thread.signal },
          );
          running.add(run);
          return run.finally(() => running.delete(run));
        });
        const result: unknown = await Promise.race([work, whenAborted(thread.signal)]);
        if (isFailure(result)) throw errorOf(result);
        onProgress?.(1);
        return result as Tasks[typeof name]['output'];
      } catch (error) {
        throw thread.signal.aborted ? thread.signal.reason : orOutOfMemory(error);
      } finally {
        watchdog.end();
        signal?.removeEventListener('abort', stop);
        stops.delete(stop);
        port1.close();
      }
    },
    close: async () => {
      // A thread that is ended in the middle of native work may take the process with it: each is told to end by itself.
      isClosing = true;
      for (const stop of stops) stop();
      await Promise.race([
        Promise.allSettled(running),
        new Promise((resolve) => setTimeout(resolve, CLOSE_S * 1000).unref()),
      ]);
      await Promise.all([pool.threads.destroy(), writers.threads.destroy()]);
    },
  };
}

/** Returns a runner in this thread, for tests and the command line. */
export function localRunner(): TaskRunner {
  return {
    run: (name, input, { onProgress = () => {}, signal } = {}) =>
      runTask(name, input, (share) => {
        signal?.throwIfAborted();
        onProgress(share);
      }),
    close: async () => {},
  };
}

function isFailure(result: unknown): result is WorkerFailure {
  return typeof result === 'object' && result !== null && (result as { failed?: unknown }).failed === true;
}

function aborted(): Error {
  return new DOMException('The task was cancelled.', 'AbortError');
}

function errorOf({ name, code, message }: WorkerFailure): Error {
  if (name === 'MediaError') return new MediaError((code ?? 'broken') as MediaError['code'], message);
  if (name === 'AbortError') return new DOMException(message, name);
  if (name === 'DiskFullError') return new DiskFullError();
  return name === 'StorageError' ? new StorageError(code ?? '') : new Error(message);
}

/** Rejects once the signal is aborted, so that what still waits for its turn is answered at once. */
function whenAborted(signal: AbortSignal): Promise<never> {
  const rejected = new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason), { once: true });
  });
  rejected.catch(() => {});
  return rejected;
}

/** A thread that ran out of memory is ended by the engine; the file that it worked on is to blame. */
function orOutOfMemory(error: unknown): unknown {
  return (error as { code?: unknown }).code === 'ERR_WORKER_OUT_OF_MEMORY'
    ? new MediaError(
        'broken',
        'The work needed more memory than a recording should, so it was ended; nothing was changed. A recording is probably damaged: export or copy it again.',
      )
    : error;
}
