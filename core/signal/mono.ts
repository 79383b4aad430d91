/** The mean of both sides says nothing about a sound when it is this far below the left side in power (−40 dB). */
export const CANCELLED_SHARE = 1e-4;

/**
 * Returns the mean of both sides, for measuring; where that all but cancels (a sound with its sides out of phase),
 * the left side alone, so that such a sound is not taken for silence.
 * @param mono is overwritten and returned; as long as a side
 */
export function toMono(
  [left, right]: readonly [Float32Array, Float32Array],
  mono = new Float32Array(left.length),
): Float32Array {
  let middle = 0;
  let side = 0;
  for (let frame = 0; frame < mono.length; frame++) {
    const mean = (left[frame] + right[frame]) * 0.5;
    mono[frame] = mean;
    middle += mean * mean;
    side += left[frame] * left[frame];
  }
  if (middle <= side * CANCELLED_SHARE) mono.set(left);
  return mono;
}

/** Brings both sides to their mean, from index `start` up to `end`. */
export function foldToMono(
  [left, right]: readonly [Float32Array, Float32Array],
  start: number,
  end: number,
): void {
  for (let frame = start; frame < end; frame++) {
    const mean = (left[frame] + right[frame]) * 0.5;
    left[frame] = mean;
    right[frame] = mean;
  }
}
