import { robustSpread } from '../measure/presence/correlate.ts';
import { PERIOD } from './spectra.ts';

const { abs, floor, max, min } = Math;

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
