import type { FileHandle } from 'node:fs/promises';
import type { Stereo } from '../../core/audio/planes.ts';
import { unpackPcm } from './pcm.ts';

/** What files of raw stereo frames at 48 kHz are called by (32-bit float, little-endian, left and right in turn). */
export const KEPT_EXTENSION = '.f32';
export const BYTES_A_FRAME = 8;
const PORTION_FRAMES = 16_384;

/** Yields the frames of a file of raw frames, in portions. */
export async function* keptFrames(file: FileHandle): AsyncGenerator<Stereo[], void, undefined> {
  const bytes = new Uint8Array(PORTION_FRAMES * BYTES_A_FRAME);
  for (;;) {
    const { bytesRead } = await file.read(bytes, 0, bytes.length);
    if (bytesRead < BYTES_A_FRAME) return;
    const [left, right] = unpackPcm('pcm-f32', bytes.subarray(0, bytesRead), 2);
    yield [[left, right]];
  }
}
