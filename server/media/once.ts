import { access, mkdir, rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { orDiskFull } from './diskFile.ts';

/** A file that is being made, and how many wait for it. */
interface Making {
  done: Promise<void>;
  stop: AbortController;
  waiting: number;
}

const making = new Map<string, Making>();

/**
 * Makes a file, however many ask for it at the same time; later calls find it there. It is written under another name and
 * renamed when it is whole, so that half a file is never found; when writing fails, nothing is left. When everybody who
 * asked for it has gone (by their signals), the making is told to stop.
 * @throws what `write` throws; {DiskFullError} when there is no room
 */
export async function once(
  path: string,
  write: (part: string, signal: AbortSignal) => Promise<unknown>,
  signal?: AbortSignal,
): Promise<void> {
  const isThere = await access(path).then(
    () => true,
    () => false,
  );
  if (isThere) return;
  const one = making.get(path) ?? begin(path, write);
  one.waiting += 1;
  const leave = () => {
    one.waiting -= 1;
    if (one.waiting === 0) one.stop.abort();
  };
  signal?.addEventListener('abort', leave, { once: true });
  await one.done.finally(() => signal?.removeEventListener('abort', leave));
}

function begin(path: string, write: (part: string, signal: AbortSignal) => Promise<unknown>): Making {
  const stop = new AbortController();
  const done = make(path, (part) => write(part, stop.signal)).finally(() => making.delete(path));
  const one = { done, stop, waiting: 0 };
  making.set(path, one);
  return one;
}

async function make(path: string, write: (part: string) => Promise<unknown>): Promise<void> {
  const part = `${path}.part`;
  await mkdir(dirname(path), { recursive: true });
  try {
    await write(part);
    await rename(part, path);
  } catch (error) {
    await rm(part, { force: true });
    throw orDiskFull(error);
  }
}
