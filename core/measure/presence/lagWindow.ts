import { MAX_LAG, TRANSFORM_FRAMES } from './windows.ts';

const { acosh, cos, cosh, PI } = Math;

/**
 * Only the lags up to {@link MAX_LAG} of a correlation are wanted, a third of all that its transform gives. So its spectrum is smoothed over a
 * few bins and every third kept, and the inverse transform is a third as long. Keeping every third lays the lags around a third of the
 * transform's length over those that are wanted; smoothing weights the lags with a window that is 57 dB down there.
 */
export const KEPT_EVERY = 3;
/** Taps to each side of the middle one. */
export const TAPS_ASIDE = 4;

/** What would fall on the lags that are wanted lies between these cosines of its angle (a turn is the transform's length). */
const [FROM, TO] = [1, -1].map((side) =>
  cos(2 * PI * (1 / KEPT_EVERY + (side * MAX_LAG) / TRANSFORM_FRAMES)),
);

/**
 * By how much a lag (frames) is weighted: a Chebyshev polynomial of the cosine of its angle, which stays lowest over a given range for its order
 * (Dolph, “A current distribution for broadside arrays”, Proc. IRE 34, 1946). 1 for no lag.
 */
export function lagWeight(lag: number): number {
  return chebyshev(placeOf(lag)) / chebyshev(placeOf(0));
}

/** The taps that smooth a spectrum so, from the first to the last. */
export function lagTaps(): Float32Array {
  const count = 2 * TAPS_ASIDE + 1;
  return Float32Array.from({ length: count }, (_, tap) => {
    let sum = 0;
    for (let i = 0; i < count; i++)
      sum += lagWeight((i * TRANSFORM_FRAMES) / count) * cos((2 * PI * i * (tap - TAPS_ASIDE)) / count);
    return sum / count;
  });
}

/** Brings the range that is to be low to −1 to 1. */
function placeOf(lag: number): number {
  return (2 * cos((2 * PI * lag) / TRANSFORM_FRAMES) - FROM - TO) / (TO - FROM);
}

function chebyshev(x: number): number {
  if (x > 1) return cosh(TAPS_ASIDE * acosh(x));
  if (x < -1) return (TAPS_ASIDE % 2 === 0 ? 1 : -1) * cosh(TAPS_ASIDE * acosh(-x));
  return cos(TAPS_ASIDE * Math.acos(x));
}
