import { access, mkdir, rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { orDiskFull } from './diskFile.ts';

const making = new Map<string, Promise<void>>();

/**
 * Makes a file, however many ask for it at the same time; later calls find it there. It is written under another name and
 * renamed when it is whole, so that half a file is never found; when writing fails, nothing is left.
 * @throws what `write` throws; {DiskFullError} when there is no room
 */
export async function once(path: string, write: (part: string) => Promise<unknown>): Promise<void> {
  const isThere = await access(path).then(
    () => true,
    () => false,
  );
  if (isThere) return;
  const running = making.get(path) ?? make(path, write).finally(() => making.delete(path));
  making.set(path, running);
  await running;
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
