import type { FileHandle } from 'node:fs/promises';

const PORTION_BYTES = 1 << 18;
/** Enough for the heads of parts that lie far apart. */
export const HEADS_ALONE = 1 << 12;

/** Reads a file here and there, a portion at a time. */
export class FileBytes {
  private readonly handle: FileHandle;
  private readonly size: number;
  private readonly portionBytes: number;
  private portion = Buffer.alloc(0);
  private startsAt = 0;

  /** @param portionBytes no more can be asked for at once */
  constructor(handle: FileHandle, size: number, portionBytes = PORTION_BYTES) {
    this.portionBytes = portionBytes;
    this.handle = handle;
    this.size = size;
  }

  /** So many bytes, or as many as there are. */
  async at(from: number, count: number): Promise<Buffer> {
    if (!(from >= 0 && from < this.size)) return Buffer.alloc(0);
    const end = Math.min(this.size, from + count);
    if (from < this.startsAt || end > this.startsAt + this.portion.length) {
      const wanted = Math.min(this.portionBytes, this.size - from);
      const { buffer, bytesRead } = await this.handle.read(Buffer.alloc(wanted), 0, wanted, from);
      this.portion = buffer.subarray(0, bytesRead);
      this.startsAt = from;
    }
    return this.portion.subarray(from - this.startsAt, end - this.startsAt);
  }
}
