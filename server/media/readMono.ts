import { newStereo } from '../../core/audio/planes.ts';
import type { Passage } from '../../core/records.ts';
import { toMono } from '../../core/signal/mono.ts';
import { STEM_RATE, Stem } from './stem.ts';

/** More than this is not read: a calibration needs a passage, not a session (s). */
const MOST_S = 20 * 60;

/** Reads the first track of a file as mono at 48 kHz, or a passage of it; 20 minutes at most. @throws {MediaError} */
export async function readMono(
  file: string,
  passage?: Passage,
  onProgress: (share: number) => void = () => {},
): Promise<Float32Array> {
  const stem = await Stem.open(file, 0, { allowCut: true });
  try {
    const portions: Float32Array[] = [];
    const planes = newStereo(STEM_RATE);
    const seconds = Math.min(MOST_S, passage ? passage.untilS - passage.fromS : MOST_S);
    const wanted = Math.round(seconds * STEM_RATE);
    for (let left = Math.round((passage?.fromS ?? 0) * STEM_RATE); left > 0; left -= STEM_RATE) {
      await stem.read(planes, Math.min(left, STEM_RATE));
      onProgress(0);
    }
    for (let length = 0; length < wanted; ) {
      const frames = await stem.read(planes, Math.min(wanted - length, STEM_RATE));
      if (frames === 0) break;
      portions.push(toMono([planes[0].subarray(0, frames), planes[1].subarray(0, frames)]));
      length += frames;
      onProgress(length / wanted);
    }
    const whole = new Float32Array(portions.reduce((sum, { length }) => sum + length, 0));
    let at = 0;
    for (const portion of portions) {
      whole.set(portion, at);
      at += portion.length;
    }
    return whole;
  } finally {
    await stem.close();
  }
}
