import { joinedPortions } from '../../core/audio/planes.ts';
import type { Passage } from '../../core/records.ts';
import { toMono } from '../../core/signal/mono.ts';
import { AudioFile } from './audioFile.ts';
import { type PassOptions, pass, type Readable, skip, type Visit } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { UntilDamage } from './untilDamage.ts';

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
    const seconds = Math.min(MOST_S, passage ? passage.untilS - passage.fromS : MOST_S);
    await skip(stem, Math.round((passage?.fromS ?? 0) * STEM_RATE), () => onProgress(0));
    return await monoOf(stem, { mostFrames: Math.round(seconds * STEM_RATE), onProgress });
  } finally {
    await stem.close();
  }
}

/** A stretch of a track of a file: the track counted from zero, from where and how much of it (s). */
export interface Stretch {
  path: string;
  track: number;
  fromS: number;
  lengthS: number;
}

/** Reads a stretch of a track as mono at 48 kHz, as far as it can be decoded. @throws {MediaError} when the file cannot be opened */
export async function monoOfStretch({ path, track, fromS, lengthS }: Stretch): Promise<Float32Array> {
  const file = await AudioFile.open(path, { allowCut: true });
  try {
    const stem = new UntilDamage(Stem.of(file, track, { fromS }));
    return await monoOf(stem, { mostFrames: Math.round(lengthS * STEM_RATE) });
  } finally {
    file.close();
  }
}

/** Reads what is left of a stem as mono. @throws {MediaError} */
export async function monoOf(stem: Readable, options: PassOptions = {}): Promise<Float32Array> {
  const portions: Float32Array[] = [];
  const gather: Visit = ([[left, right]], frames) => {
    portions.push(toMono([left.subarray(0, frames), right.subarray(0, frames)]));
  };
  await pass([stem], gather, options);
  return joinedPortions(portions);
}
