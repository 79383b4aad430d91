import { type FileHandle, open, rename } from 'node:fs/promises';
import { writeWhole } from '../media/diskFile.ts';
import { bytesAt, soundIn, type WavSound, writeFileSize, writeSoundSize } from './wavFile.ts';

/** So much is copied at a time. */
const PORTION_BYTES = 1 << 22;

/** Parts of a track (WAV, of one form), in their order, and the file that is to hold all of it. The first becomes that file. */
export interface PartsRequest {
  paths: string[];
  outPath: string;
}

/** Writes parts of a track one behind the other, byte by byte. @throws where one is no WAV */
export async function joinParts(
  { paths: [first, ...others], outPath }: PartsRequest,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  await rename(first, outPath);
  const whole = await open(outPath, 'r+');
  try {
    const sound = await soundIn(whole);
    for (const [index, path] of others.entries()) {
      const part = await open(path, 'r');
      try {
        const more = await soundIn(part);
        await copySound(part, more, whole, sound.at + sound.bytes, (share) =>
          onProgress((index + share) / others.length),
        );
        sound.bytes += more.bytes;
      } finally {
        await part.close();
      }
    }
    const end = sound.at + sound.bytes;
    await whole.truncate(end);
    // Chunks have an even length.
    await writeWhole(whole, Buffer.alloc(end % 2), end);
    await writeSoundSize(whole, sound);
    await writeFileSize(whole, end + (end % 2));
  } finally {
    await whole.close();
  }
}

async function copySound(
  from: FileHandle,
  { at, bytes }: WavSound,
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
