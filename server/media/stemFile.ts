import { open } from 'node:fs/promises';
import { newStereo } from '../../core/audio/planes.ts';
import { writeWhole } from './diskFile.ts';
import { BYTES_A_FRAME } from './keptFrames.ts';
import { STEM_RATE, Stem } from './stem.ts';

const PORTION_FRAMES = STEM_RATE;

/**
 * Unpacks a recording into a raw file of stereo frames at 48 kHz (32-bit float, little-endian, left and right in turn), so
 * that any passage of it can be read at once.
 * @throws {MediaError} when it does not decode
 */
export async function writeStemFile(
  mediaFile: string,
  path: string,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  const stem = await Stem.open(mediaFile, 0, { allowCut: true });
  try {
    const file = await open(path, 'w');
    try {
      const planes = newStereo(PORTION_FRAMES);
      const packed = new Float32Array(2 * PORTION_FRAMES);
      for (let done = 0; ; ) {
        const frames = await stem.read(planes, PORTION_FRAMES);
        if (frames === 0) return;
        for (let i = 0; i < frames; i++) {
          packed[2 * i] = planes[0][i];
          packed[2 * i + 1] = planes[1][i];
        }
        await writeWhole(file, Buffer.from(packed.buffer, 0, frames * BYTES_A_FRAME));
        done += frames;
        onProgress(Math.min(1, done / STEM_RATE / Math.max(stem.expectedS, 0.001)));
      }
    } finally {
      await file.close();
    }
  } finally {
    await stem.close();
  }
}
