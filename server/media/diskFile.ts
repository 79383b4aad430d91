import { type FileHandle, open } from 'node:fs/promises';
import { StreamTarget, type StreamTargetChunk } from 'mediabunny';

/** Thrown when the disk has no room for what is being written. */
export class DiskFullError extends Error {
  constructor() {
    super(
      'The disk is full, so this was not done; nothing half-written was left. Free some space and try again.',
    );
    this.name = 'DiskFullError';
  }
}

/** Thrown when the data folder cannot be written to, for another reason than a full disk. */
export class StorageError extends Error {
  readonly code: string;
  readonly reason: string;

  /** @param code the operating system's own: EACCES, EROFS … */
  constructor(code: string) {
    super(
      `The data folder cannot be written to (${REASONS[code] ?? code}). Make it writable, or start Northfen with another one (NORTHFEN_DATA_DIR); nothing was changed.`,
    );
    this.name = 'StorageError';
    this.code = code;
    this.reason = REASONS[code] ?? code;
  }
}

const REASONS: Record<string, string> = {
  EROFS: 'it is read-only',
  EACCES: 'it belongs to somebody else, or is read-only',
  EPERM: 'the system does not allow it',
  EIO: 'the disk reports an error',
  ENODEV: 'the disk is gone',
  EDQUOT: 'your share of the disk is used up',
  EMFILE: 'too many files are open',
};
/** What SQLite says of a disk, and what that means. */
const SQLITE_REASONS: Record<string, string> = {
  SQLITE_READONLY: 'EROFS',
  SQLITE_IOERR: 'EIO',
  SQLITE_CANTOPEN: 'EACCES',
  SQLITE_PERM: 'EACCES',
};

/**
 * Returns the error as people should read it: one that tells of a full disk becomes a {@link DiskFullError}, one that tells
 * of a folder that cannot be written to a {@link StorageError}; from the file system or from the database.
 */
export function orDiskFull(error: unknown): unknown {
  const code = (error as { code?: unknown } | null)?.code;
  if (typeof code !== 'string' || error instanceof StorageError) return error;
  if (code === 'ENOSPC' || code === 'SQLITE_FULL') return new DiskFullError();
  const sqlite = Object.keys(SQLITE_REASONS).find((one) => code === one || code.startsWith(`${one}_`));
  if (sqlite)
    return code === 'SQLITE_IOERR_WRITE' ? new DiskFullError() : new StorageError(SQLITE_REASONS[sqlite]);
  return code in REASONS ? new StorageError(code) : error;
}

/** Writes all of the bytes, at a position or where the file stands: a nearly full disk takes a part at first. */
export async function writeWhole(handle: FileHandle, data: Uint8Array, position?: number): Promise<void> {
  for (let written = 0; written < data.byteLength; ) {
    const at = position === undefined ? null : position + written;
    const { bytesWritten } = await handle.write(data, written, data.byteLength - written, at);
    written += bytesWritten;
  }
}

/**
 * Returns a target that writes a container to a file as it comes; the file is made with the first of it.
 * @param spaceBytes pretend that the disk is full beyond this many bytes, to try what happens then
 * @throws {DiskFullError} (when written to) once there is no space left
 */
export function diskTarget(path: string, spaceBytes = Number.POSITIVE_INFINITY): StreamTarget {
  let handle: FileHandle | null = null;
  const writable = new WritableStream<StreamTargetChunk>({
    async write({ data, position }) {
      if (position + data.byteLength > spaceBytes) throw new DiskFullError();
      try {
        handle ??= await open(path, 'w');
        await writeWhole(handle, data, position);
      } catch (error) {
        throw orDiskFull(error);
      }
    },
    close: async () => handle?.close(),
    abort: async () => handle?.close(),
  });
  return new StreamTarget(writable, { chunked: true, chunkSize: 1 << 20 });
}
