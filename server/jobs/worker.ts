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

/** Runs one task on a worker thread; a failure comes back as data. */
export async function work({ name, input, port }: WorkerTask): Promise<unknown> {
  try {
    return await runTask(name, input, (share) => port.postMessage(share));
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
    port.close();
  }
}
