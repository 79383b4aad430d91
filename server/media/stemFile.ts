import { createHash } from 'node:crypto';
import { access, mkdir, open, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { newStereo } from '../../core/engine/planes.ts';
import { STEM_RATE, Stem } from './stem.ts';

const PORTION_FRAMES = STEM_RATE;

/** The name of a file that is kept for a recording, or several: made from what it is made of. */
export function keptName(parts: unknown, extension: string): string {
  return `${createHash('sha256').update(JSON.stringify(parts)).digest('hex').slice(0, 24)}${extension}`;
}

/** Tells whether a file is there. */
export async function isThere(path: string): Promise<boolean> {
  return access(path).then(
    () => true,
    () => false,
  );
}

/**
 * Unpacks a recording into a raw file of stereo frames at 48 kHz (32-bit float, little-endian, left and right in turn), so
 * that any passage of it can be read at once.
 * @throws {MediaError} when it does not decode; nothing is left then
 */
export async function writeStemFile(
  mediaFile: string,
  path: string,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  const part = `${path}.part`;
  await mkdir(join(path, '..'), { recursive: true });
  const stem = await Stem.open(mediaFile, 0, { allowCut: true });
  try {
    const file = await open(part, 'w');
    try {
      const planes = newStereo(PORTION_FRAMES);
      const packed = new Float32Array(2 * PORTION_FRAMES);
      for (let done = 0; ; ) {
        const frames = await stem.read(planes, PORTION_FRAMES);
        if (frames === 0) break;
        for (let i = 0; i < frames; i++) {
          packed[2 * i] = planes[0][i];
          packed[2 * i + 1] = planes[1][i];
        }
        await file.write(Buffer.from(packed.buffer, 0, frames * 8));
        done += frames;
        onProgress(Math.min(1, done / STEM_RATE / Math.max(stem.expectedS, 0.001)));
      }
    } finally {
      await file.close();
    }
    await rename(part, path);
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  } finally {
    await stem.close();
  }
}
