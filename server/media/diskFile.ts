import { open } from 'node:fs/promises';
import { StreamTarget, type StreamTargetChunk } from 'mediabunny';

/** Thrown when the disk has no room for what is being written. */
export class DiskFullError extends Error {
  constructor() {
    super(
      'The disk is full: the file could not be written whole and was removed. Free some space and start again; nothing else was changed.',
    );
    this.name = 'DiskFullError';
  }
}

/** Returns the error as people should read it: one that tells of a full disk becomes a {@link DiskFullError}. */
export function orDiskFull(error: unknown): unknown {
  return (error as NodeJS.ErrnoException).code === 'ENOSPC' ? new DiskFullError() : error;
}

/**
 * Returns a target that writes a container to a file as it comes.
 * @param spaceBytes pretend that the disk is full beyond this many bytes, to try what happens then
 * @throws {DiskFullError} (when written to) once there is no space left
 */
export async function diskTarget(path: string, spaceBytes = Number.POSITIVE_INFINITY): Promise<StreamTarget> {
  const handle = await open(path, 'w');
  const writable = new WritableStream<StreamTargetChunk>({
    async write({ data, position }) {
      if (position + data.byteLength > spaceBytes) throw new DiskFullError();
      try {
        for (let written = 0; written < data.byteLength; ) {
          const { bytesWritten } = await handle.write(
            data,
            written,
            data.byteLength - written,
            position + written,
          );
          written += bytesWritten;
        }
      } catch (error) {
        throw orDiskFull(error);
      }
    },
    close: () => handle.close(),
    abort: () => handle.close(),
  });
  return new StreamTarget(writable, { chunked: true, chunkSize: 1 << 20 });
}
