import type { Peak } from './correlate.ts';
import { THRESHOLDS } from './thresholds.ts';
import { FLAT_RATE } from './windows.ts';

const { abs, max, sqrt } = Math;

/** What one window showed of a reference in a track. */
export interface WindowEvidence {
  index: number;
  /** Its place among the windows that can be tested: what follows a silence follows what was before it. */
  order: number;
  /** False where the reference is silent: the window says nothing. */
  testable: boolean;
  /** How loud the reference is (dBFS, mean power). */
  referenceDb: number;
  peak: Peak | null;
  /** Capped evidence over the window's stretches at the peak, in spreads: see `evidence.ts`. */
  spread: number;
  /** In how many stretches the reference is active. */
  activeStretches: number;
  /** In how many of those that the window before did not have. */
  newStretches: number;
  /** The first and the last stretch that shows the sound clearly; −1 where none does. (Two numbers: there are many windows.) */
  firstClear: number;
  lastClear: number;
  gain: number;
  weight: number;
  /** The lag at which the gain was estimated (frames at 32 kHz); null where it was not. */
  gainLag: number | null;
  /** How many times its own uncertainty the gain is: chance correlations explain next to nothing of the track. */
  significance: number;
}

/**
 * A window in which the reference is active for less than this many stretches (3 s) needs a higher peak, since a short
 * sound of few tones finds its like by chance.
 */
const FULL_STRETCHES = 12;
/** Lags within 1 ms belong to the same offset. */
export const SAME_LAG = FLAT_RATE / 1000;

/** Tells whether a window could be a candidate at some lag, or has a gain. */
export function mayCount({ peak, spread, weight, significance }: WindowEvidence): boolean {
  const stands = (peak?.height ?? 0) >= THRESHOLDS.windowAtLag && spread >= THRESHOLDS.spread;
  return stands || weight > 0 || significance > 0;
}

/** Tells whether a window shows the reference by itself, or (given the file's lag) together with the others. */
export function isSeen(window: WindowEvidence, fileLag: number | null): boolean {
  if (fileLag !== null && abs((window.peak?.lag ?? 0) - fileLag) > SAME_LAG) return false;
  return isCandidate(window, fileLag) && window.significance >= THRESHOLDS.significance;
}

/** Tells whether a window's correlation alone suggests the reference, so that its gain is worth estimating. */
export function isCandidate(
  { peak, spread, activeStretches }: WindowEvidence,
  fileLag: number | null,
): boolean {
  if (!peak || spread < THRESHOLDS.spread) return false;
  if (peak.height >= THRESHOLDS.window * max(1, sqrt(FULL_STRETCHES / activeStretches))) return true;
  return fileLag !== null && abs(peak.lag - fileLag) <= SAME_LAG && peak.height >= THRESHOLDS.windowAtLag;
}
