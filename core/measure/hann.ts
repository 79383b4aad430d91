/** Returns a Hann window of so many samples, for spectra: it fades in over its first half and out over the second. */
export function hann(size: number): Float32Array {
  return Float32Array.from(
    { length: size },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / size),
  );
}
