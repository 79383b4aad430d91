/** The engine works at this rate (Hz). */
export const SAMPLE_RATE = 48_000;
/** Frames in a block. */
export const BLOCK_FRAMES = 128;
/** Two planes of equal length. */
export type Stereo = readonly [Float32Array, Float32Array];

/** Tells whether there is nothing but zeros from index `start` up to `end`. */
export function isSilent([left, right]: Stereo, start: number, end: number): boolean {
  for (let frame = start; frame < end; frame++) {
    if (left[frame] !== 0 || right[frame] !== 0) return false;
  }
  return true;
}

/** Returns two silent planes. */
export function newStereo(frames: number): Stereo {
  return [new Float32Array(frames), new Float32Array(frames)];
}

/** Returns portions of one plane, one after the other. */
export function joinedPortions(portions: readonly Float32Array[]): Float32Array {
  const whole = new Float32Array(portions.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const portion of portions) {
    whole.set(portion, at);
    at += portion.length;
  }
  return whole;
}
