const { abs, exp, LN10, log } = Math;

/** A decibel as a natural logarithm of amplitude. */
const PER_DB = LN10 / 20;

/** Returns the amplitude factor of a gain in dB; −Infinity gives 0. */
export function fromDb(gainDb: number): number {
  return exp(gainDb * PER_DB);
}

/** Returns an amplitude factor in dB; 0 gives −Infinity. */
export function toDb(amplitude: number): number {
  return log(abs(amplitude)) / PER_DB;
}
