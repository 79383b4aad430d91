import type { Kernels } from '../../kernels/kernels.ts';
import type { RealFft } from '../fft.ts';
import { FRAMES_PER_FLAT_FRAME, LOW_HZ, RATE } from './windows.ts';

const { max, min, sin, sqrt } = Math;

const BYTES = Float32Array.BYTES_PER_ELEMENT;
/** 40 ms; half of it divides the hop between windows, so that frames of one window fall on those of the next. */
const FRAME = 1920;
const HOP = FRAME / 2;
const FLAT_FRAME = FRAME / FRAMES_PER_FLAT_FRAME;
/** The last samples of a window are flattened without what follows them: they are done again in the next window. */
export const UNFINISHED_FRAMES = HOP;
const LOW_BIN = Math.ceil((LOW_HZ / RATE) * FRAME);
const SCALE = 1 / FLAT_FRAME;
/** Bins below this magnitude (white noise at about −110 dBFS) hold nothing but rounding. */
const FLOOR = 1e-4;
/**
 * Bins this far below the strongest of their frame count less and less: in a track only what is leakage (−80 dB), in
 * a reference also what is faint in it (−40 dB), since that is masked first.
 */
export const TRACK_FLOOR = 1e-4;
export const REFERENCE_FLOOR = 1e-2;

/**
 * Flattens a sound in time and frequency: every bin of a short-time spectrum gets about the same magnitude and
 * keeps its phase. The quiet background in the pauses of speech then counts as much as the speech, which is what
 * lets a correlation find music far below a voice. (The weighting of the phase transform, Knapp and Carter 1976,
 * at a finer scale in time.)
 */
export class Whitener {
  private readonly forward: RealFft;
  private readonly inverse: RealFft;
  private readonly loops: Kernels['loops'];
  private readonly slope: Float32Array;
  private readonly flatSlope: Float32Array;
  private readonly frame: Float32Array;
  private readonly spectrum: Float32Array;
  private readonly band: Float32Array;
  private readonly flat: Float32Array;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft, kernels: Kernels) {
    this.loops = kernels.loops;
    this.slope = kernels.floats(FRAME);
    this.slope.set(slopeOf(FRAME, 1));
    this.flatSlope = kernels.floats(FLAT_FRAME);
    this.flatSlope.set(slopeOf(FLAT_FRAME, FRAMES_PER_FLAT_FRAME));
    this.frame = kernels.floats(FRAME);
    this.spectrum = kernels.floats(FRAME);
    this.band = kernels.floats(FLAT_FRAME);
    this.flat = kernels.floats(FLAT_FRAME);
    this.forward = makeFft(FRAME);
    this.inverse = makeFft(FLAT_FRAME);
  }

  /**
   * Writes the flattened sound, at 32 kHz, into each of the forms.
   * @param samples at 48 kHz, in the kernels' memory
   * @param forms each two thirds as long, in the kernels' memory, with {@link REFERENCE_FLOOR} or {@link TRACK_FLOOR}
   * @param from a multiple of 960: what comes of samples before it is left as it is, having been flattened earlier
   */
  whiten(samples: Float32Array, forms: { flat: Float32Array; floor: number }[], from = 0): void {
    const first = from / FRAMES_PER_FLAT_FRAME;
    for (const { flat } of forms) flat.fill(0, first);
    for (let start = from - HOP; start < samples.length; start += HOP) {
      this.load(samples, start);
      this.forward.forward(this.frame, this.spectrum);
      for (const { flat, floor } of forms)
        if (this.flattenFrame(floor)) this.addFrame(flat, start / FRAMES_PER_FLAT_FRAME, first);
    }
  }

  /** Cuts a frame out of the samples and weights it with the slope; there is silence before and after them. */
  private load(samples: Float32Array, start: number): void {
    if (start >= 0 && start + FRAME <= samples.length) {
      this.weightWithSlope(samples.byteOffset + start * BYTES);
      return;
    }
    this.frame.fill(0);
    const there = samples.subarray(max(0, start), start + FRAME);
    this.frame.set(there, max(0, -start));
    this.weightWithSlope(this.frame.byteOffset);
  }

  private weightWithSlope(samplesAt: number): void {
    this.loops.multiply(samplesAt, this.slope.byteOffset, this.frame.byteOffset, FRAME);
  }

  /** Flattens the transformed frame; returns false when there is nothing in its band. */
  private flattenFrame(floor: number): boolean {
    this.band.set(this.spectrum.subarray(0, FLAT_FRAME));
    if (!this.flattenBand(floor)) return false;
    this.inverse.inverse(this.band, this.flat);
    return true;
  }

  private addFrame(out: Float32Array, start: number, first: number): void {
    const from = max(0, first - start);
    const to = min(FLAT_FRAME, out.length - start);
    if (to <= from) return;
    this.loops.addProducts(
      this.flat.byteOffset + from * BYTES,
      this.flatSlope.byteOffset + from * BYTES,
      out.byteOffset + (start + from) * BYTES,
      to - from,
    );
  }

  /** Flattens the bins of the band in place, and clears the others; returns false when there is nothing in the band. */
  private flattenBand(relativeFloor: number): boolean {
    this.band.fill(0, 0, 2 * LOW_BIN);
    const strongest = this.loops.strongestPower(this.band.byteOffset, FLAT_FRAME);
    if (strongest === 0) return false;
    const least = max(FLOOR, relativeFloor * sqrt(strongest));
    this.loops.flatten(this.band.byteOffset, FLAT_FRAME, SCALE, least * least);
    return true;
  }
}

/** Half a sine over a frame, read every so many of its samples; the squares of two that overlap by half add up to 1. */
function slopeOf(frames: number, step: number): Float32Array {
  return Float32Array.from({ length: frames }, (_, i) => sin((Math.PI * (i * step + 0.5)) / FRAME));
}
