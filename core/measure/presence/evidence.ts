import type { Kernels } from '../../kernels/kernels.ts';
import type { Peak } from './correlate.ts';
import { FLAT_RATE, RATE, SILENCE_RMS, STRETCH_S, STRETCHES } from './windows.ts';

const { max, min, round, sqrt } = Math;

/** No stretch counts for more than this many spreads, so that one repeated word cannot carry a whole window. */
const CAP = 3;
/** Stretches in which the reference is this far below its loudest one (−50 dB) hold none of it. */
const ACTIVE_SHARE = 0.003;

const STRETCH_FRAMES = STRETCH_S * RATE;
const FLAT_STRETCH_FRAMES = STRETCH_S * FLAT_RATE;
const BYTES = Float32Array.BYTES_PER_ELEMENT;

/** Returns the mean power of each quarter of a second of a window, into `powers`, for the stretches from `first` on. */
export function stretchPowers(
  { dot }: Kernels['loops'],
  samples: Float32Array,
  powers: Float64Array,
  first: number,
): void {
  for (let stretch = first; stretch < STRETCHES; stretch++) {
    const at = samples.byteOffset + stretch * STRETCH_FRAMES * BYTES;
    powers[stretch] = dot(at, at, STRETCH_FRAMES) / STRETCH_FRAMES;
  }
}

/** Tells, for each quarter of a second of a window, whether the sound is active in it. */
export function activeStretches(powers: Float64Array): boolean[] {
  const levels = Array.from(powers, sqrt);
  const least = max(SILENCE_RMS, ACTIVE_SHARE * max(...levels));
  return levels.map((level) => level >= least);
}

/**
 * Correlates two flattened windows stretch by stretch at one lag. Returns one figure for each quarter of a second,
 * in units of the spread that unrelated sounds would have; 0 where either side is silent. Positive where it agrees with
 * the polarity.
 * @param reference, track flattened windows of equal length, at 32 kHz, in the kernels' memory
 * @param peak lag in their frames by which the track lags the reference, and polarity
 * @param bandwidth independent values a second of a flattened sound (twice its bandwidth in Hz)
 */
export function stretchEvidence(
  { dot }: Kernels['loops'],
  reference: Float32Array,
  track: Float32Array,
  { lag, polarity }: Pick<Peak, 'lag' | 'polarity'>,
  bandwidth: number,
): Float32Array {
  const evidence = new Float32Array(STRETCHES);
  const shift = round(lag);
  const independent = STRETCH_S * bandwidth;
  for (let stretch = 0; stretch < STRETCHES; stretch++) {
    const from = max(stretch * FLAT_STRETCH_FRAMES, -shift);
    const to = min((stretch + 1) * FLAT_STRETCH_FRAMES, track.length - shift);
    const frames = max(0, to - from);
    const mine = reference.byteOffset + from * BYTES;
    const theirs = track.byteOffset + (from + shift) * BYTES;
    const power = sqrt(dot(mine, mine, frames) * dot(theirs, theirs, frames));
    evidence[stretch] = power > 0 ? polarity * (dot(mine, theirs, frames) / power) * sqrt(independent) : 0;
  }
  return evidence;
}

/**
 * Sums the evidence of the stretches in which the reference is active, each capped at ±3, in units of the spread
 * that the sum has by chance.
 */
export function spreadEvidence(evidence: Float32Array, active: boolean[]): number {
  let sum = 0;
  let count = 0;
  for (let stretch = 0; stretch < evidence.length; stretch++) {
    if (!active[stretch]) continue;
    sum += max(-CAP, min(CAP, evidence[stretch]));
    count += 1;
  }
  return count > 0 ? sum / sqrt(count) : 0;
}

/** A stretch shows the sound clearly from this many spreads on, and this share of the clearest one's. */
const CLEAR = 4;
const CLEAR_SHARE = 0.25;

/** Tells which stretches of a window show the sound clearly, each for itself and in the window's polarity. */
export function clearStretches(evidence: Float32Array): boolean[] {
  const least = max(CLEAR, CLEAR_SHARE * max(...evidence));
  return Array.from(evidence, (height) => height >= least);
}

/** The gain is estimated over at least this many stretches in a row (1 s). */
const MIN_BLOCK = 4;

/**
 * Returns the stretches over which the gain of a window is to be estimated: one block, from the first that shows the
 * sound clearly to the last, so that a sound that enters or ends within the window is measured where it is. None when
 * no stretch is clear. Single stretches are not picked out, since chance would pick them too.
 */
export function gainBlock(evidence: Float32Array): boolean[] {
  const clear = clearStretches(evidence);
  let from = clear.indexOf(true);
  let to = clear.lastIndexOf(true);
  if (from < 0) return clear;
  while (to - from + 1 < MIN_BLOCK && (from > 0 || to < clear.length - 1)) {
    from = max(0, from - 1);
    to = min(clear.length - 1, to + 1);
  }
  return clear.map((_, stretch) => stretch >= from && stretch <= to);
}
