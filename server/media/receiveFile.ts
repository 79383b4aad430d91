import { open } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { orDiskFull, writeWhole } from './diskFile.ts';

/**
 * Writes what arrives into a file. When the disk takes no more, the rest is still taken in and thrown away, since a browser that
 * is cut off while it sends never reads the answer.
 * @throws {DiskFullError | StorageError} once everything has arrived; what the stream throws when it breaks off
 */
export async function receiveFile(stream: Readable, path: string): Promise<void> {
  let failure: unknown = null;
  const file = await open(path, 'w').catch((error: unknown) => {
    failure = error;
    return null;
  });
  try {
    for await (const chunk of stream) {
      if (failure || !file) continue;
      try {
        await writeWhole(file, chunk as Uint8Array);
      } catch (error) {
        failure = error;
      }
    }
  } finally {
    await file?.close();
  }
  if (failure) throw orDiskFull(failure);
}
