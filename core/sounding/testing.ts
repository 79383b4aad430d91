import { fromDb } from '../audio/decibel.ts';
import { seededRandom } from '../audio/random.ts';
import { codedSound } from './code.ts';
import type { CodedSource } from './read.ts';

const { cos, floor, PI, sin } = Math;

export const RATE = 48_000;

/** How one source is played onto one track. */
export interface Played {
  source: number;
  track: number;
  gainDb: number;
  delayFrames: number;
  /** By how much its clock runs fast (ppm). */
  driftPpm?: number;
  how: 'both sides' | 'swapped' | 'folded to mono' | 'left only' | 'right inverted' | 'difference';
}

/** Adds up what is played, as a recorder would, and rounds to 16 bits. */
export function recorded(
  sources: CodedSource[],
  played: Played[],
  starts: number[],
  tracks: number,
  seconds: number,
) {
  const planes = Array.from({ length: tracks }, () => [0, 1].map(() => new Float32Array(seconds * RATE)));
  // A room plays one sound some hundred times.
  const sounds = new Map<string, Float32Array[]>();
  for (const { source, track, gainDb, delayFrames, driftPpm = 0, how } of played) {
    const key = `${source} ${driftPpm}`;
    const { id, sides } = sources[source];
    const sound = sounds.get(key) ?? codedSound(id, sides).map((side) => byClock(side, driftPpm));
    sounds.set(key, sound);
    const [left, right = left] = sound;
    const [toLeft, toRight] = planes[track];
    const gain = fromDb(gainDb);
    const at = starts[source] + delayFrames;
    for (let i = 0; i < left.length && at + i < toLeft.length; i++) {
      const middle = (left[i] + right[i]) / 2;
      const pair =
        how === 'folded to mono'
          ? [middle, middle]
          : how === 'swapped'
            ? [right[i], left[i]]
            : how === 'difference'
              ? [(left[i] - right[i]) / 2, (left[i] - right[i]) / 2]
              : [left[i], how === 'left only' ? 0 : how === 'right inverted' ? -right[i] : right[i]];
      toLeft[at + i] += gain * pair[0];
      toRight[at + i] += gain * pair[1];
    }
  }
  const random = seededRandom(9);
  for (const sides of planes)
    for (const plane of sides)
      for (let i = 0; i < plane.length; i++)
        plane[i] = Math.round(plane[i] * 32_767 + random() - random()) / 32_767;
  return planes.map((channels) => ({ channels, isLossy: false }));
}

/** A sound as a clock plays it that runs fast by so many ppm, by a windowed sine cardinal. */
function byClock(sound: Float32Array, ppm: number): Float32Array {
  if (ppm === 0) return sound;
  const step = 1 + ppm * 1e-6;
  const made = new Float32Array(floor(sound.length / step));
  for (let frame = 0; frame < made.length; frame++) {
    const from = floor(frame * step);
    const within = frame * step - from;
    // The sine has the same size at every tap.
    const size = sin(PI * within) / PI;
    for (let tap = -11; tap <= 12; tap++) {
      const x = tap - within;
      const sinc = x === 0 ? 1 : ((tap % 2 === 0 ? -1 : 1) * size) / x;
      made[frame] += (sound[from + tap] ?? 0) * (0.5 + 0.5 * cos((PI * x) / 12.5)) * sinc;
    }
  }
  return made;
}

export const THREE: CodedSource[] = [
  { id: 'voice', sides: 'mono' },
  { id: 'game', sides: 'stereo' },
  { id: 'records', sides: 'stereo' },
];
