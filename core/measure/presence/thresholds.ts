/**
 * The thresholds of presence, in spreads of the correlation (see `correlate.ts`). They come from a null
 * distribution, not from a guess: docs/measurements.md says how it was made and what it showed.
 */
export const THRESHOLDS = {
  /** The peak of one window, searched over every lag. */
  window: 7,
  /** A peak of one window that is above all that chance makes: its gain may be taken from the parts that hear the sound (see `level.ts`). */
  beyondChance: 10,
  /** The peak of one window within ±1 ms of the lag that the whole file shows. */
  windowAtLag: 4.5,
  /** The evidence of the quarter-second stretches of a window, each capped: see `evidence.ts`. */
  spread: 2.8,
  /** Peak, and gain over its uncertainty, of a window that no other one has to back. */
  alone: 12,
  /**
   * So high a gain over its uncertainty counts although the evidence is not spread over the window, or with a peak beyond chance alone: where clocks
   * drift apart, peaks are low, but gains are high.
   */
  byGain: 15,
  /** The gain over its uncertainty of windows that may back each other although their lags drift apart. */
  drifting: 6,
  /** The common gain of many windows over its uncertainty. (Windows overlap by half, so this is √2 too high.) */
  together: 8,
  /** The gain of a window over its own uncertainty. */
  significance: 3,
  /** The peak of the sum over all windows. */
  file: 7,
  /** The share of unrelated pairs that may be called present: none of 11,460 was, so it is below this at 95 % confidence. */
  falseAlarms: 1 / 3000,
} as const;
