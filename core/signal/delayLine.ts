import type { Stereo } from '../audio/planes.ts';

const { floor, max, min } = Math;

/** A delay that drifts may grow by this much before it holds (1 s). */
const MAX_DRIFT_FRAMES = 48_000;

/**
 * A delay of whole frames, or one that drifts: two clocks that run apart, heard as a delay that grows or shrinks, read
 * between the frames by a cubic through four of them (Lagrange).
 */
export class DelayLine {
  private readonly rings: readonly [Float32Array, Float32Array];
  private readonly delay: number;
  private readonly perFrame: number;
  private at = 0;
  private frames = 0;
  /** How many silent frames have gone in since the last sound. */
  private quiet: number;

  /** @param driftPpm by how many millionths of a frame the delay grows with each frame */
  constructor(delayFrames: number, driftPpm: number) {
    const length = delayFrames + (driftPpm === 0 ? 1 : MAX_DRIFT_FRAMES + 4);
    this.rings = [new Float32Array(length), new Float32Array(length)];
    this.delay = delayFrames;
    this.perFrame = driftPpm * 1e-6;
    this.quiet = length;
  }

  /** Tells whether silence comes out as long as silence goes in. */
  get isQuiet(): boolean {
    return this.quiet >= this.rings[0].length;
  }

  /** Takes `frames` frames of the input and writes what comes out to the start of `out`. */
  process(input: Stereo, inputIsSilent: boolean, start: number, frames: number, out: Stereo): void {
    this.quiet = inputIsSilent ? min(this.quiet + frames, this.rings[0].length) : 0;
    for (let side = 0; side < 2; side++) {
      if (this.perFrame === 0) this.shift(this.rings[side], input[side], start, frames, out[side]);
      else this.slide(this.rings[side], input[side], start, frames, out[side]);
    }
    this.at = (this.at + frames) % this.rings[0].length;
    this.frames += frames;
  }

  /** Lets time pass without sound; only while {@link isQuiet}. */
  skip(frames: number): void {
    this.frames += frames;
  }

  private shift(ring: Float32Array, input: Float32Array, start: number, frames: number, out: Float32Array) {
    const length = ring.length;
    let write = this.at;
    let read = (this.at + length - this.delay) % length;
    for (let i = 0; i < frames; i++) {
      ring[write] = input[start + i];
      out[i] = ring[read];
      if (++write === length) write = 0;
      if (++read === length) read = 0;
    }
  }

  private slide(ring: Float32Array, input: Float32Array, start: number, frames: number, out: Float32Array) {
    const length = ring.length;
    for (let i = 0; i < frames; i++) {
      const write = (this.at + i) % length;
      ring[write] = input[start + i];
      const grown = (this.frames + i) * this.perFrame;
      const delay = max(2, min(this.delay + grown, this.delay + MAX_DRIFT_FRAMES));
      const whole = floor(delay);
      const t = 1 - (delay - whole);
      const older = (write + length - whole - 2) % length;
      const a = ring[older];
      const b = ring[(older + 1) % length];
      const c = ring[(older + 2) % length];
      const d = ring[(older + 3) % length];
      out[i] =
        (-t * (t - 1) * (t - 2) * a) / 6 +
        ((t + 1) * (t - 1) * (t - 2) * b) / 2 -
        ((t + 1) * t * (t - 2) * c) / 2 +
        ((t + 1) * t * (t - 1) * d) / 6;
    }
  }
}
