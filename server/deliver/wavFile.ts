import type { FileHandle } from 'node:fs/promises';
import { writeWhole } from '../media/diskFile.ts';

/** The first chunk begins behind the head of the file; each has a name and a length. */
const HEAD_BYTES = 12;
const CHUNK_HEAD_BYTES = 8;
/** In RF64 the lengths of the file and of its sound, and how many frames that has, stand in the first chunk (EBU Tech 3306). */
const LARGE_SIZES_AT = 20;
/** What a size says that is too large for it. */
const LARGE = 0xff_ff_ff_ff;
const MOST_CHUNKS = 100;

/** Where the sound of a WAV lies (bytes), and how many bytes a frame of all channels has. */
export interface WavSound {
  at: number;
  bytes: number;
  frameBytes: number;
}

/** Tells whether a WAV is an RF64, which may pass 4 GB. */
export async function isRf64(file: FileHandle): Promise<boolean> {
  return (await bytesAt(file, 0, 4)).toString('latin1') === 'RF64';
}

/** Finds the sound of a WAV. @throws where there is none */
export async function soundIn(file: FileHandle): Promise<WavSound> {
  let frameBytes = 0;
  for (let at = HEAD_BYTES, chunks = 0; chunks < MOST_CHUNKS; chunks++) {
    const head = await bytesAt(file, at, CHUNK_HEAD_BYTES);
    if (head.length < CHUNK_HEAD_BYTES) break;
    const name = head.toString('latin1', 0, 4);
    const start = at + CHUNK_HEAD_BYTES;
    const bytes = head.readUInt32LE(4);
    if (name === 'fmt ') frameBytes = (await bytesAt(file, start + 12, 2)).readUInt16LE();
    if (name === 'data') return { at: start, bytes: await soundBytes(file, bytes), frameBytes };
    at = start + bytes + (bytes % 2);
  }
  throw new Error('a WAV file has no sound in it');
}

/** Says in a WAV how long the file is now (bytes in all). */
export async function writeFileSize(file: FileHandle, bytes: number): Promise<void> {
  const size = bytes - CHUNK_HEAD_BYTES;
  if (await isRf64(file)) await writeWhole(file, long(size), LARGE_SIZES_AT);
  else await writeWhole(file, short(size), HEAD_BYTES - CHUNK_HEAD_BYTES);
}

/** Says in a WAV how long its sound is now. */
export async function writeSoundSize(file: FileHandle, { at, bytes, frameBytes }: WavSound): Promise<void> {
  if (!(await isRf64(file))) await writeWhole(file, short(bytes), at - 4);
  else await writeWhole(file, Buffer.concat([long(bytes), long(bytes / frameBytes)]), LARGE_SIZES_AT + 8);
}

/** So many bytes of a file, or as many as there are. */
export async function bytesAt(file: FileHandle, at: number, count: number): Promise<Buffer> {
  const { buffer, bytesRead } = await file.read(Buffer.alloc(count), 0, count, at);
  return buffer.subarray(0, bytesRead);
}

async function soundBytes(file: FileHandle, said: number): Promise<number> {
  if (!(await isRf64(file))) return said;
  return Number((await bytesAt(file, LARGE_SIZES_AT + 8, 8)).readBigUInt64LE());
}

function short(size: number): Buffer {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(Math.min(size, LARGE));
  return bytes;
}

function long(size: number): Buffer {
  const bytes = Buffer.alloc(8);
  bytes.writeBigUInt64LE(BigInt(size));
  return bytes;
}
