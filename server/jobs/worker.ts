import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import type { MessagePort } from 'node:worker_threads';
import { orDiskFull } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { tellSigns } from '../media/signOfLife.ts';
import { runTask, type Tasks } from './tasks.ts';

/** What a worker thread is handed: a task by name, its input, and a port on which it reports progress. */
export interface WorkerTask<Name extends keyof Tasks = keyof Tasks> {
  name: Name;
  input: Tasks[Name]['input'];
  port: MessagePort;
}

/** An error as it crosses between threads: class names do not survive that, so the kind is data. */
export interface WorkerFailure {
  failed: true;
  name: string;
  code: string | null;
  message: string;
}

/**
 * The buffers of decoded sound lie outside of what the engine counts before it collects garbage, so it is told to: after
 * a task, and when they have grown by so much (bytes), which is looked at once in so many reports of progress, and no more often than this (ms).
 * More often would take a fifth of the time of a check, and a tenth of the time of a copy.
 */
const GROWTH_A_COLLECTION = 128 * 2 ** 20;
const REPORTS_A_LOOK = 10;
const LOOK_EVERY_MS = 20;
/** Progress is told no more often than this (ms). */
const REPORT_EVERY_MS = 50;
const collectGarbage = exposedCollector();

function exposedCollector(): () => void {
  setFlagsFromString('--expose-gc');
  return runInNewContext('gc');
}

/** What a worker tells its runner while it works: progress (0 to 1), or that it failed and its thread is to be replaced. */
export type WorkerReport = { share: number } | { failure: WorkerFailure };

/** The failures that say something of a file, a disk or a wish; after any other, the thread is not trusted again. */
const EXPECTED = new Set(['MediaError', 'DiskFullError', 'StorageError', 'AbortError']);
/** What lies outside of the counted heap (decoded sound) may grow to this, then a file is not what it says (bytes). */
const MOST_EXTERNAL_BYTES = 2 ** 31;

/**
 * Runs one task on a worker thread; a failure comes back as data. Any message on the port stops the task at its next
 * report of progress. After an unexpected failure it says so and waits to be replaced.
 */
export async function work({ name, input, port }: WorkerTask): Promise<unknown> {
  let stopped = false;
  let reports = 0;
  let reportedAt = performance.now();
  let shareDone = 0;
  let kept = externalBytes();
  let lookedAt = performance.now();
  port.on('message', () => {
    stopped = true;
  });
  const report = (message: WorkerReport) => port.postMessage(message);
  const tell = () => {
    if (performance.now() < reportedAt + REPORT_EVERY_MS) return;
    reportedAt = performance.now();
    report({ share: shareDone });
  };
  try {
    report({ share: 0 });
    tellSigns(tell);
    return await runTask(name, input, (share) => {
      if (stopped) throw new DOMException('The task was cancelled.', 'AbortError');
      shareDone = share;
      tell();
      reports += 1;
      const now = performance.now();
      if (reports % REPORTS_A_LOOK !== 0 || now < lookedAt + LOOK_EVERY_MS) return;
      lookedAt = now;
      if (externalBytes() < kept + GROWTH_A_COLLECTION) return;
      collectGarbage();
      kept = externalBytes();
      if (kept > MOST_EXTERNAL_BYTES)
        throw new MediaError(
          'broken',
          'A recording needs more memory than it should. Export or copy it again.',
        );
    });
  } catch (error) {
    const failure = failureOf(orDiskFull(error) as Error);
    if (EXPECTED.has(failure.name)) return failure;
    report({ failure });
    return new Promise(() => {});
  } finally {
    tellSigns(null);
    collectGarbage();
  }
}

function externalBytes(): number {
  return process.memoryUsage().external;
}

function failureOf(error: Error): WorkerFailure {
  const { name, message } = error;
  const code = (error as { code?: unknown }).code;
  return { failed: true, name, code: typeof code === 'string' ? code : null, message };
}
