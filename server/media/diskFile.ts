import { type FileHandle, open } from 'node:fs/promises';
import { StreamTarget } from 'mediabunny';

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

/** Fails loudly if another version of the media library writes past {@link DiskTarget}: those bytes would be lost. */
function refuse(): never {
  throw new Error('the media library does not write through the disk target');
}

/** So many bytes are written at once. */
const PORTION_BYTES = 1 << 20;

/**
 * Writes a container to a file as it comes; the file is made with the first bytes. It replaces what the media library (mediabunny 1.61) does itself:
 * that keeps a buffer for each packet and joins them later, which took longer than everything else in recordings of hours.
 */
class DiskTarget extends StreamTarget {
  private readonly path: string;
  private readonly spaceBytes: number;
  private handle: FileHandle | null = null;
  /** The buffer that is being filled, where in the file it begins, and how full it is (bytes). */
  private portion = new Uint8Array(PORTION_BYTES);
  private startsAt = 0;
  private filled = 0;
  /** How long the file is so far. */
  private endsAt = 0;
  /** What is to be written, in its order: later bytes may take the place of earlier ones. */
  private waiting: { data: Uint8Array<ArrayBuffer>; position: number }[] = [];
  /** Buffers that were written out, kept for reuse: allocating new ones would keep the garbage collector busy. */
  private spare: Uint8Array<ArrayBuffer>[] = [];

  constructor(path: string, spaceBytes: number) {
    super(new WritableStream({ write: refuse }));
    this.path = path;
    this.spaceBytes = spaceBytes;
  }

  _start(): void {}

  _write(data: Uint8Array, position: number): void {
    const isEarlier = position + data.byteLength <= this.startsAt;
    // What is filled in afterwards (the size of a part, once it is known) mostly lies in the buffer still.
    if (isEarlier) this.waiting.push({ data: data.slice(), position });
    else this.fill(data, position);
  }

  private fill(data: Uint8Array, position: number): void {
    const isWithin = position >= this.startsAt && position <= this.startsAt + this.filled;
    if (!isWithin && !this.leaveHole(position)) {
      this.endPortion();
      this.startsAt = position;
    }
    this.endsAt = Math.max(this.endsAt, position + data.byteLength);
    let at = position - this.startsAt;
    for (let from = 0; from < data.byteLength; ) {
      const count = Math.min(data.byteLength - from, PORTION_BYTES - at);
      this.portion.set(count === data.byteLength ? data : data.subarray(from, from + count), at);
      from += count;
      at += count;
      this.filled = Math.max(this.filled, at);
      if (at < PORTION_BYTES) continue;
      this.endPortion();
      at = 0;
    }
  }

  /** Leaves bytes free that are filled in afterwards, at the end of the file and within the buffer; returns false where it is elsewhere. */
  private leaveHole(position: number): boolean {
    const from = this.startsAt + this.filled;
    if (from < this.endsAt || position < from || position >= this.startsAt + PORTION_BYTES) return false;
    this.portion.fill(0, this.filled, position - this.startsAt);
    this.filled = position - this.startsAt;
    return true;
  }

  async _flush(): Promise<void> {
    if (this.waiting.length === 0) return;
    const portions = this.waiting;
    this.waiting = [];
    for (const { data, position } of portions) {
      await this.put(data, position);
      if (data.byteLength === PORTION_BYTES) this.spare.push(data);
    }
  }

  async _finalize(): Promise<void> {
    try {
      this.endPortion();
      await this._flush();
    } finally {
      await this._close();
    }
  }

  async _close(): Promise<void> {
    const { handle } = this;
    this.handle = null;
    await handle?.close();
  }

  private endPortion(): void {
    if (this.filled > 0) {
      const isWhole = this.filled === PORTION_BYTES;
      const data = isWhole ? this.portion : this.portion.slice(0, this.filled);
      this.waiting.push({ data, position: this.startsAt });
      if (isWhole) this.portion = this.spare.pop() ?? new Uint8Array(PORTION_BYTES);
    }
    this.startsAt += this.filled;
    this.filled = 0;
  }

  private async put(data: Uint8Array, position: number): Promise<void> {
    if (position + data.byteLength > this.spaceBytes) throw new DiskFullError();
    try {
      this.handle ??= await open(this.path, 'w');
      await writeWhole(this.handle, data, position);
    } catch (error) {
      throw orDiskFull(error);
    }
  }
}

/**
 * Returns a target that writes a container to a file.
 * @param spaceBytes pretend that the disk is full beyond this many bytes, to try what happens then
 * @throws {DiskFullError} (when written to) once there is no space left
 */
export function diskTarget(path: string, spaceBytes = Number.POSITIVE_INFINITY): StreamTarget {
  return new DiskTarget(path, spaceBytes);
}
