import { SAMPLE_RATE } from '../audio/planes.ts';
import type { Kernels } from '../kernels/kernels.ts';
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
 * @param folded one period, overwritten; its first frame is where a period of the recording begins. It and the samples in the memory of the loops
 * @returns false where there is no whole period
 */
export function fold(
  { addScaled }: Kernels['loops'],
  folded: Float32Array,
  samples: Float32Array,
  from: number,
  to: number,
): boolean {
  folded.fill(0);
  const periods = max(from === 0 && to === samples.length ? 1 : 0, floor((to - from) / PERIOD));
  if (periods === 0) return false;
  const end = min(to, from + periods * PERIOD);
  for (let first = from; first < end; ) {
    const at = first % PERIOD;
    const next = min(end, first + PERIOD - at);
    addScaled(addressOf(samples, first), 1 / periods, addressOf(folded, at), next - first);
    first = next;
  }
  return true;
}

/** The address of a value in the memory of the loops. */
export function addressOf({ byteOffset, BYTES_PER_ELEMENT }: Float32Array, at: number): number {
  return byteOffset + at * BYTES_PER_ELEMENT;
}

/** How many spreads of the correlation its value at a lag is high. */
export function heightOf(lags: Float32Array, at: number): number {
  const spread = robustSpread(lags);
  return spread > 0 ? abs(lags[at]) / spread : 0;
}
