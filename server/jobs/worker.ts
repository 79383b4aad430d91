import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import type { MessagePort } from 'node:worker_threads';
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
 * a task, and once in so many reports of its progress (a few seconds of sound).
 */
const REPORTS_A_COLLECTION = 5;
const collectGarbage = exposedCollector();

function exposedCollector(): () => void {
  setFlagsFromString('--expose-gc');
  return runInNewContext('gc');
}

/**
 * Runs one task on a worker thread; a failure comes back as data. Any message on the port stops the task at its next
 * report of progress.
 */
export async function work({ name, input, port }: WorkerTask): Promise<unknown> {
  let stopped = false;
  let reports = 0;
  port.on('message', () => {
    stopped = true;
  });
  try {
    return await runTask(name, input, (share) => {
      if (stopped) throw new DOMException('The task was cancelled.', 'AbortError');
      port.postMessage(share);
      reports += 1;
      if (reports % REPORTS_A_COLLECTION === 0) collectGarbage();
    });
  } catch (error) {
    const { name: kind, message } = error as Error;
    const code = (error as { code?: unknown }).code;
    return {
      failed: true,
      name: kind,
      code: typeof code === 'string' ? code : null,
      message,
    } satisfies WorkerFailure;
  } finally {
    collectGarbage();
    port.close();
  }
}
