import type { RealFft } from '../fft.ts';
import { FRAMES_PER_FLAT_FRAME, LOW_HZ, RATE } from './windows.ts';

const { max, min, sin, sqrt } = Math;

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
  private readonly slope = slopeOf(FRAME, 1);
  private readonly flatSlope = slopeOf(FLAT_FRAME, FRAMES_PER_FLAT_FRAME);
  private readonly frame = new Float32Array(FRAME);
  private readonly spectrum = new Float32Array(FRAME);
  private readonly band = this.spectrum.subarray(0, FLAT_FRAME);
  private readonly flat = new Float32Array(FLAT_FRAME);

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft) {
    this.forward = makeFft(FRAME);
    this.inverse = makeFft(FLAT_FRAME);
  }

  /**
   * Writes the flattened sound into `out`, at 32 kHz.
   * @param samples at 48 kHz
   * @param out two thirds as long
   * @param floor {@link TRACK_FLOOR} or {@link REFERENCE_FLOOR}
   * @param from a multiple of 960: what comes of samples before it is left as it is, having been flattened earlier
   */
  whiten(samples: Float32Array, out: Float32Array, floor: number, from = 0): void {
    const first = from / FRAMES_PER_FLAT_FRAME;
    out.fill(0, first);
    for (let start = from - HOP; start < samples.length; start += HOP) {
      this.load(samples, start);
      if (this.flattenFrame(floor)) this.addFrame(out, start / FRAMES_PER_FLAT_FRAME, first);
    }
  }

  /** Cuts a frame out of the samples and weights it with the slope; there is silence before and after them. */
  private load(samples: Float32Array, start: number): void {
    if (start >= 0 && start + FRAME <= samples.length) {
      multiply(samples, start, this.slope, this.frame);
      return;
    }
    this.frame.fill(0);
    const there = samples.subarray(max(0, start), start + FRAME);
    this.frame.set(there, max(0, -start));
    multiply(this.frame, 0, this.slope, this.frame);
  }

  /** Flattens the loaded frame; returns false when there is nothing in its band. */
  private flattenFrame(floor: number): boolean {
    this.forward.forward(this.frame, this.spectrum);
    if (!flatten(this.band, floor)) return false;
    this.inverse.inverse(this.band, this.flat);
    return true;
  }

  private addFrame(out: Float32Array, start: number, first: number): void {
    const from = max(0, first - start);
    const to = min(FLAT_FRAME, out.length - start);
    addWeighted(this.flat, this.flatSlope, from, to, out, start);
  }
}

/** Half a sine over a frame, read every so many of its samples; the squares of two that overlap by half add up to 1. */
function slopeOf(frames: number, step: number): Float32Array {
  return Float32Array.from({ length: frames }, (_, i) => sin((Math.PI * (i * step + 0.5)) / FRAME));
}

function multiply(samples: Float32Array, start: number, by: Float32Array, out: Float32Array): void {
  for (let i = 0; i < FRAME; i++) out[i] = samples[start + i] * by[i];
}

function addWeighted(
  samples: Float32Array,
  weights: Float32Array,
  from: number,
  to: number,
  out: Float32Array,
  start: number,
): void {
  for (let i = from; i < to; i++) out[start + i] += samples[i] * weights[i];
}

/** Flattens the bins of the band in place, and clears the others; returns false when there is nothing in the band. */
function flatten(band: Float32Array, relativeFloor: number): boolean {
  const strongest = strongestPower(band);
  if (strongest === 0) return false;
  const least = max(FLOOR, relativeFloor * sqrt(strongest));
  const floor = least * least;
  band.fill(0, 0, 2 * LOW_BIN);
  for (let i = 2 * LOW_BIN; i < FLAT_FRAME; i += 2) {
    const re = band[i];
    const im = band[i + 1];
    const gain = SCALE / sqrt(re * re + im * im + floor);
    band[i] = re * gain;
    band[i + 1] = im * gain;
  }
  return true;
}

function strongestPower(band: Float32Array): number {
  let strongest = 0;
  for (let i = 2 * LOW_BIN; i < FLAT_FRAME; i += 2) {
    const power = band[i] * band[i] + band[i + 1] * band[i + 1];
    if (power > strongest) strongest = power;
  }
  return strongest;
}
