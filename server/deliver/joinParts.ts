import { type FileHandle, open, rename } from 'node:fs/promises';
import { basename } from 'node:path';
import { writeWhole } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';

/** A track that may be longer than this is written as RF64 (s): floats in stereo pass 4 GB after three hours. */
const LARGE_S = 2 * 3600;
/** The first chunk begins behind the head of the file; each has a name and a length. */
const HEAD_BYTES = 12;
const CHUNK_HEAD_BYTES = 8;
/** In RF64 the lengths of the file and of its sound, and how many frames that has, stand in the first chunk (EBU Tech 3306). */
const LARGE_SIZES_AT = 20;
const MOST_CHUNKS = 100;
/** So much is copied at a time. */
const PORTION_BYTES = 1 << 22;

/** Parts of a track (WAV, of one form), in their order, and the file that is to hold all of it. The first becomes that file. */
export interface PartsRequest {
  paths: string[];
  outPath: string;
}

/** Where the sound of a WAV lies (bytes). */
interface Place {
  at: number;
  bytes: number;
  isLarge: boolean;
}

/** How a track of so many seconds is written as WAV. */
export function wavOf(seconds: number) {
  return { container: 'wav', isLarge: seconds > LARGE_S } as const;
}

/** Writes parts of a track one behind the other, byte by byte. @throws {MediaError} where one is no WAV */
export async function joinParts(
  { paths: [first, ...others], outPath }: PartsRequest,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  await rename(first, outPath);
  const whole = await open(outPath, 'r+');
  try {
    const sound = await soundIn(whole, outPath);
    const frameBytes = await frameBytesOf(whole);
    for (const [index, path] of others.entries()) {
      const part = await open(path, 'r');
      try {
        const more = await soundIn(part, path);
        await copyBytes(part, more, whole, sound.at + sound.bytes, (share) =>
          onProgress((index + share) / others.length),
        );
        sound.bytes += more.bytes;
      } finally {
        await part.close();
      }
    }
    await writeSizes(whole, sound, frameBytes);
  } finally {
    await whole.close();
  }
}

async function soundIn(file: FileHandle, path: string): Promise<Place> {
  const head = await bytesAt(file, 0, LARGE_SIZES_AT + 16);
  const isLarge = head.toString('latin1', 0, 4) === 'RF64';
  for (let at = HEAD_BYTES, chunks = 0; chunks < MOST_CHUNKS; chunks++) {
    const chunk = await bytesAt(file, at, CHUNK_HEAD_BYTES);
    if (chunk.length < CHUNK_HEAD_BYTES) break;
    const bytes = chunk.readUInt32LE(4);
    const start = at + CHUNK_HEAD_BYTES;
    if (chunk.toString('latin1', 0, 4) === 'data')
      return {
        at: start,
        bytes: isLarge ? Number(head.readBigUInt64LE(LARGE_SIZES_AT + 8)) : bytes,
        isLarge,
      };
    at = start + bytes + (bytes % 2);
  }
  throw new MediaError('broken', `${basename(path)} is no WAV file with sound in it.`);
}

/** Bytes of a frame of all channels. The form of the sound is said before it. */
async function frameBytesOf(file: FileHandle): Promise<number> {
  const head = await bytesAt(file, 0, 4096);
  return head.readUInt16LE(head.indexOf('fmt ') + CHUNK_HEAD_BYTES + 12);
}

async function copyBytes(
  from: FileHandle,
  { at, bytes }: Place,
  into: FileHandle,
  to: number,
  onProgress: (share: number) => void,
): Promise<void> {
  for (let done = 0; done < bytes; ) {
    const portion = await bytesAt(from, at + done, Math.min(PORTION_BYTES, bytes - done));
    if (portion.length === 0) throw new Error('a part of a track is shorter than it says');
    await writeWhole(into, portion, to + done);
    done += portion.length;
    onProgress(done / bytes);
  }
}

/** Says how long file and sound are now. */
async function writeSizes(
  file: FileHandle,
  { at, bytes, isLarge }: Place,
  frameBytes: number,
): Promise<void> {
  const end = at + bytes;
  await file.truncate(end);
  if (bytes % 2 === 1) await writeWhole(file, Buffer.alloc(1), end);
  const fileBytes = end + (bytes % 2) - 8;
  if (!isLarge) {
    const size = (value: number) => Buffer.from(Uint32Array.of(value).buffer);
    await writeWhole(file, size(fileBytes), 4);
    await writeWhole(file, size(bytes), at - 4);
    return;
  }
  const sizes = [fileBytes, bytes, bytes / frameBytes].map(BigInt);
  await writeWhole(file, Buffer.from(BigUint64Array.from(sizes).buffer), LARGE_SIZES_AT);
}

async function bytesAt(file: FileHandle, at: number, count: number): Promise<Buffer> {
  const { buffer, bytesRead } = await file.read(Buffer.alloc(count), 0, count, at);
  return buffer.subarray(0, bytesRead);
}
