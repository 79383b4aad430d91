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
  const sounds = new Map<string, Float64Array[]>();
  for (const { source, track, gainDb, delayFrames, driftPpm = 0, how } of played) {
    const key = `${source} ${driftPpm} ${how}`;
    const { id, sides } = sources[source];
    const sound =
      sounds.get(key) ??
      asPlayed(
        codedSound(id, sides).map((side) => byClock(side, driftPpm)),
        how,
      );
    sounds.set(key, sound);
    sound.forEach((side, at) => {
      addTo(planes[track][at], side, fromDb(gainDb), starts[source] + delayFrames);
    });
  }
  const random = seededRandom(9);
  for (const sides of planes)
    for (const plane of sides)
      for (let i = 0; i < plane.length; i++)
        plane[i] = Math.round(plane[i] * 32_767 + random() - random()) / 32_767;
  return planes.map((channels) => ({ channels, isLossy: false }));
}

/** Both sides of a sound as they arrive. */
function asPlayed([left, right = left]: Float32Array[], how: Played['how']): Float64Array[] {
  const of = (value: (frame: number) => number) => Float64Array.from(left, (_, frame) => value(frame));
  const [onLeft, onRight] = [of((frame) => left[frame]), of((frame) => right[frame])];
  const middle = () => of((frame) => (left[frame] + right[frame]) / 2);
  if (how === 'folded to mono') return [middle(), middle()];
  if (how === 'swapped') return [onRight, onLeft];
  if (how === 'left only') return [onLeft, new Float64Array(left.length)];
  if (how === 'right inverted') return [onLeft, of((frame) => -right[frame])];
  if (how === 'both sides') return [onLeft, onRight];
  const difference = of((frame) => (left[frame] - right[frame]) / 2);
  return [difference, difference];
}

function addTo(plane: Float32Array, sound: Float64Array, gain: number, at: number): void {
  const end = Math.min(sound.length, plane.length - at);
  for (let frame = 0; frame < end; frame++) plane[at + frame] += gain * sound[frame];
}

const ANGLES = Array.from({ length: 24 }, (_, at) => (PI * (at - 11)) / 12.5);
const COSINES = ANGLES.map((angle) => cos(angle));
const SINES = ANGLES.map((angle) => sin(angle));

/** A sound as a clock plays it that runs fast by so many ppm, by a windowed sine cardinal. */
function byClock(sound: Float32Array, ppm: number): Float32Array {
  if (ppm === 0) return sound;
  const step = 1 + ppm * 1e-6;
  const made = new Float32Array(floor(sound.length / step));
  for (let frame = 0; frame < made.length; frame++) {
    const from = floor(frame * step);
    const within = frame * step - from;
    // The sine has the same size at every tap; the cosine of a difference is that of its parts.
    const size = sin(PI * within) / PI;
    const [along, across] = [cos((PI * within) / 12.5), sin((PI * within) / 12.5)];
    for (let tap = -11; tap <= 12; tap++) {
      const x = tap - within;
      const sinc = x === 0 ? 1 : ((tap % 2 === 0 ? -1 : 1) * size) / x;
      const window = 0.5 + 0.5 * (COSINES[tap + 11] * along + SINES[tap + 11] * across);
      made[frame] += (sound[from + tap] ?? 0) * window * sinc;
    }
  }
  return made;
}

export const THREE: CodedSource[] = [
  { id: 'voice', sides: 'mono' },
  { id: 'game', sides: 'stereo' },
  { id: 'records', sides: 'stereo' },
];
