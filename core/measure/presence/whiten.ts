import type { RealFft } from '../fft.ts';
import { HIGH_HZ, LOW_HZ, RATE } from './windows.ts';

const { floor, max, min, sin, sqrt } = Math;

/** 40 ms; half of it divides the hop between windows, so that frames of one window fall on those of the next. */
const FRAME = 1920;
const HOP = FRAME / 2;
/** The last samples of a window are flattened without what follows them: they are done again in the next window. */
export const UNFINISHED_FRAMES = HOP;
const LOW_BIN = Math.ceil((LOW_HZ / RATE) * FRAME);
const HIGH_BIN = floor((HIGH_HZ / RATE) * FRAME);
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
  private readonly fft: RealFft;
  private readonly slope = new Float32Array(FRAME);
  private readonly frame = new Float32Array(FRAME);
  private readonly spectrum = new Float32Array(FRAME);

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft) {
    this.fft = makeFft(FRAME);
    for (let i = 0; i < FRAME; i++) this.slope[i] = sin((Math.PI * (i + 0.5)) / FRAME);
  }

  /**
   * Writes the flattened samples into `out` (as long as `samples`).
   * @param floor {@link TRACK_FLOOR} or {@link REFERENCE_FLOOR}
   * @param from a multiple of 960: samples before it are left as they are, having been flattened earlier
   */
  whiten(samples: Float32Array, out: Float32Array, floor: number, from = 0): void {
    out.fill(0, from);
    for (let start = from - HOP; start < samples.length; start += HOP) {
      this.load(samples, start);
      this.addFrame(out, start, from, floor);
    }
  }

  private load(samples: Float32Array, start: number): void {
    const { frame, slope } = this;
    const from = max(0, -start);
    const to = min(FRAME, samples.length - start);
    if (from > 0 || to < FRAME) frame.fill(0);
    for (let i = from; i < to; i++) frame[i] = samples[start + i] * slope[i];
  }

  private addFrame(out: Float32Array, start: number, first: number, floor: number): void {
    const { frame, slope, spectrum } = this;
    this.fft.forward(frame, spectrum);
    if (!flatten(spectrum, floor)) return;
    this.fft.inverse(spectrum, frame);
    const from = max(0, first - start);
    const to = min(FRAME, out.length - start);
    for (let i = from; i < to; i++) out[start + i] += frame[i] * slope[i];
  }
}

/** Flattens a spectrum in place; returns false when there is nothing in its band. */
function flatten(spectrum: Float32Array, relativeFloor: number): boolean {
  let strongest = 0;
  for (let bin = LOW_BIN; bin <= HIGH_BIN; bin++) {
    const re = spectrum[2 * bin];
    const im = spectrum[2 * bin + 1];
    const power = re * re + im * im;
    if (power > strongest) strongest = power;
  }
  if (strongest === 0) return false;
  const floor = max(FLOOR, relativeFloor * sqrt(strongest)) ** 2;
  const scale = 1 / FRAME;
  for (let bin = 0; bin < FRAME / 2; bin++) {
    const re = spectrum[2 * bin];
    const im = spectrum[2 * bin + 1];
    const inBand = bin >= LOW_BIN && bin <= HIGH_BIN;
    const gain = inBand ? scale / sqrt(re * re + im * im + floor) : 0;
    spectrum[2 * bin] = re * gain;
    spectrum[2 * bin + 1] = im * gain;
  }
  return true;
}
