import { type FileHandle, open } from 'node:fs/promises';
import { type Box, boxAt, boxesIn, boxName, boxOf } from './boxes.ts';
import { orDiskFull } from './diskFile.ts';
import { FileBytes, HEADS_ALONE } from './fileBytes.ts';

/** The boxes on the way from the index down to the tables of offsets. */
const ON_THE_WAY = new Set(['moov', 'trak', 'mdia', 'minf', 'stbl']);
/** A table of offsets has flags and the number of its entries behind its head; entries of four bytes (stco) or eight (co64). */
const TABLE_HEAD_BYTES = 16;
const MOST_OFFSET = 2 ** 32 - 1;
/** So much is moved at a time (bytes). */
const MOVED_BYTES = 1 << 23;

/**
 * Moves the index of an MP4 or MOV file (ISO/IEC 14496-12) from its end to its front, so that players can begin before they have all of it. The rest moves
 * back within the file, from its end on; no second copy of it is needed.
 * @param onProgress told the share that is done, 0 to 1; what it throws ends the work, and the file is not to be used then
 * @throws {Error} where the file does not end with its index
 */
export async function moveIndexToFront(
  path: string,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    const boxes = await boxesOf(handle);
    const index = boxes.at(-1);
    const [first] = boxes;
    if (index?.name !== 'moov' || first === index) throw new Error('the file does not end with its index');
    const moov = movedBy(await bytesAt(handle, index.at, index.length));
    const from = first.at + first.length;
    for (let end = index.at; end > from; end -= MOVED_BYTES) {
      const start = Math.max(from, end - MOVED_BYTES);
      const bytes = await bytesAt(handle, start, end - start);
      await writeAt(handle, bytes, start + moov.length);
      onProgress((index.at - start) / (index.at - from));
    }
    await writeAt(handle, moov, from);
  } catch (error) {
    throw orDiskFull(error);
  } finally {
    await handle.close();
  }
}

/** The outermost boxes of a file. */
async function boxesOf(handle: FileHandle): Promise<Box[]> {
  const { size } = await handle.stat();
  const bytes = new FileBytes(handle, size, HEADS_ALONE);
  const boxes: Box[] = [];
  for (let at = 0; at < size; ) {
    const box = await boxAt(bytes, at);
    if (!box || at + box.length > size) throw new Error('the file does not consist of whole boxes');
    boxes.push(box);
    at += box.length;
  }
  return boxes;
}

/** An index as it is once all that it points to lies further back, by its own length. */
function movedBy(moov: Buffer): Buffer {
  const narrow = withOffsets(moov, moov.length, false);
  if (narrow) return narrow;
  // Offsets beyond four gigabytes need wider tables, which make the index longer.
  const { length } = withOffsets(moov, 0, true) ?? moov;
  return withOffsets(moov, length, true) ?? moov;
}

/**
 * Adds to all offsets of a box.
 * @param isWide whether all tables have entries of eight bytes
 * @returns null where an offset does not fit
 */
function withOffsets(box: Buffer, by: number, isWide: boolean): Buffer | null {
  const name = boxName(box);
  if (name === 'stco') return isWide ? widened(box, by) : added(box, by);
  if (name === 'co64') {
    const table = Buffer.from(box);
    for (let at = TABLE_HEAD_BYTES; at < table.length; at += 8)
      table.writeBigUInt64BE(table.readBigUInt64BE(at) + BigInt(by), at);
    return table;
  }
  if (!ON_THE_WAY.has(name)) return box;
  const parts: Buffer[] = [];
  for (const one of boxesIn(box)) {
    const part = withOffsets(one, by, isWide);
    if (!part) return null;
    parts.push(part);
  }
  return boxOf(name, ...parts);
}

function added(table: Buffer, by: number): Buffer | null {
  const moved = Buffer.from(table);
  for (let at = TABLE_HEAD_BYTES; at < moved.length; at += 4) {
    const offset = moved.readUInt32BE(at) + by;
    if (offset > MOST_OFFSET) return null;
    moved.writeUInt32BE(offset, at);
  }
  return moved;
}

function widened(table: Buffer, by: number): Buffer {
  const count = (table.length - TABLE_HEAD_BYTES) / 4;
  const wide = Buffer.alloc(TABLE_HEAD_BYTES + 8 * count);
  table.copy(wide, 0, 0, TABLE_HEAD_BYTES);
  wide.writeUInt32BE(wide.length, 0);
  wide.write('co64', 4, 'latin1');
  for (let i = 0; i < count; i++) {
    const offset = table.readUInt32BE(TABLE_HEAD_BYTES + 4 * i) + by;
    wide.writeBigUInt64BE(BigInt(offset), TABLE_HEAD_BYTES + 8 * i);
  }
  return wide;
}

async function bytesAt(handle: FileHandle, at: number, length: number): Promise<Buffer> {
  const bytes = Buffer.alloc(length);
  for (let done = 0; done < length; ) {
    const { bytesRead } = await handle.read(bytes, done, length - done, at + done);
    if (bytesRead === 0) throw new Error('the file ends before it says');
    done += bytesRead;
  }
  return bytes;
}

async function writeAt(handle: FileHandle, bytes: Buffer, at: number): Promise<void> {
  for (let done = 0; done < bytes.length; ) {
    const { bytesWritten } = await handle.write(bytes, done, bytes.length - done, at + done);
    done += bytesWritten;
  }
}
