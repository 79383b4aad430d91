import { SAMPLE_RATE } from '../audio/planes.ts';
import { robustSpread } from '../measure/presence/correlate.ts';
import { PERIOD_FRAMES } from './code.ts';

const { abs, floor, max, min } = Math;

/** Recordings are looked at with half of their frames: the codes end below a quarter of the rate. */
export const READ_RATE = SAMPLE_RATE / 2;
/** One period of a code in those. */
export const PERIOD = PERIOD_FRAMES / 2;

/** A lag within one period, from 0 on. */
export function modulo(lag: number): number {
  return ((lag % PERIOD) + PERIOD) % PERIOD;
}

/** The difference of two lags, as the shorter way around the period. */
export function around(difference: number): number {
  const positive = modulo(difference);
  return positive > PERIOD / 2 ? positive - PERIOD : positive;
}

/**
 * Takes the mean of all whole periods from one frame to another; of a whole recording, the part of a period that there is.
 * @param folded one period, overwritten; its first frame is where a period of the recording begins
 * @returns false where there is no whole period
 */
export function fold(folded: Float32Array, samples: Float32Array, from: number, to: number): boolean {
  folded.fill(0);
  const periods = max(from === 0 && to === samples.length ? 1 : 0, floor((to - from) / PERIOD));
  if (periods === 0) return false;
  const end = min(to, from + periods * PERIOD);
  for (let first = from; first < end; ) {
    const at = first % PERIOD;
    const next = min(end, first + PERIOD - at);
    addScaled(folded.subarray(at, at + next - first), samples.subarray(first, next), 1 / periods);
    first = next;
  }
  return true;
}

/** Adds samples to others, each times a factor. */
export function addScaled(to: Float32Array, samples: Float32Array, factor: number): void {
  for (let i = 0; i < to.length; i++) to[i] += factor * samples[i];
}

/** The lag at which a correlation is highest, of either polarity. */
export function highest(lags: Float32Array): number {
  let best = 0;
  let height = 0;
  for (let i = 0; i < lags.length; i++) {
    const here = abs(lags[i]);
    if (here <= height) continue;
    height = here;
    best = i;
  }
  return best;
}

/** How many spreads of the correlation its value at a lag is high. */
export function heightOf(lags: Float32Array, at: number): number {
  const spread = robustSpread(lags);
  return spread > 0 ? abs(lags[at]) / spread : 0;
}
