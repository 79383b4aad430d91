/** Returns the amplitude factor of a gain in dB; −Infinity gives 0. */
export function fromDb(gainDb: number): number {
  return 10 ** (gainDb / 20);
}

/** Returns an amplitude factor in dB; 0 gives −Infinity. */
export function toDb(amplitude: number): number {
  return 20 * Math.log10(Math.abs(amplitude));
}
