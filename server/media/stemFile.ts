import { open } from 'node:fs/promises';
import { writeWhole } from './diskFile.ts';
import { BYTES_A_FRAME } from './keptFrames.ts';
import { PORTION_FRAMES, pass, type Visit } from './pass.ts';
import { Stem } from './stem.ts';

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
      const packed = new Float32Array(2 * PORTION_FRAMES);
      const write: Visit = async ([[left, right]], frames) => {
        for (let i = 0; i < frames; i++) {
          packed[2 * i] = left[i];
          packed[2 * i + 1] = right[i];
        }
        await writeWhole(file, Buffer.from(packed.buffer, 0, frames * BYTES_A_FRAME));
      };
      await pass([stem], write, { onProgress });
    } finally {
      await file.close();
    }
  } finally {
    await stem.close();
  }
}
