import type { Kernels } from '../../kernels/kernels.ts';
import type { RealFft } from '../fft.ts';
import { HIGH_HZ, LOW_HZ, RATE, STRETCH_S, WINDOW_FRAMES } from './windows.ts';

const { ceil, cos, floor, max, min, sin } = Math;

const FRAME = 4096;
const HOP = FRAME;
const FRAMES = floor((WINDOW_FRAMES - FRAME) / HOP) + 1;
const LOW_BIN = ceil((LOW_HZ / RATE) * FRAME);
/** Up to {@link HIGH_HZ} or a bin more: a number that four divides. */
const BINS = 4 * ceil((floor((HIGH_HZ / RATE) * FRAME) - LOW_BIN + 1) / 4);
/** Rows of bins stand this far apart, with zeros between them. */
const ROW = BINS + 4;
const BYTES = Float32Array.BYTES_PER_ELEMENT;
const ROUNDS = 3;

/** How long a {@link ShortTimeSpectrum} is. */
export const SPECTRUM_FLOATS = FRAMES * BINS * 2;
/** A short-time spectrum of one window: frames of `BINS` bins of the band, interleaved. */
export type ShortTimeSpectrum = Float32Array;

/** A least-squares gain and how much weight it deserves (the inverse of its variance, relative to others). */
export interface GainEstimate {
  gain: number;
  weight: number;
}

/**
 * Estimates by which gain a reference is contained in a track: the least-squares fit of the aligned reference, each
 * bin of the short-time spectrum weighted by the inverse power of what the reference does not explain there, found
 * in a few rounds. (Iteratively re-weighted least squares: the maximum-likelihood gain when the rest of the track is
 * Gaussian of unknown power in every bin.)
 */
export class LevelEstimator {
  private readonly fft: RealFft;
  private readonly kernels: Kernels;
  private readonly slope: Float32Array;
  private readonly frame: Float32Array;
  private readonly spectrum = new Float32Array(FRAME);
  private readonly own: Float32Array;
  private readonly cross: Float32Array;
  private readonly whole: Float32Array;
  private readonly used = new Uint8Array(FRAMES);
  private readonly cos: Float32Array;
  private readonly sin: Float32Array;
  private readonly sums: Float64Array;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft, kernels: Kernels) {
    this.fft = makeFft(FRAME);
    this.kernels = kernels;
    this.slope = kernels.floats(FRAME);
    for (let i = 0; i < FRAME; i++) this.slope[i] = sin((Math.PI * (i + 0.5)) / FRAME);
    this.frame = kernels.floats(FRAME);
    [this.own, this.cross, this.whole] = [0, 1, 2].map(() => kernels.floats(4 + FRAMES * ROW));
    this.cos = kernels.floats(BINS);
    this.sin = kernels.floats(BINS);
    this.sums = kernels.doubles(2);
  }

  newSpectrum(): ShortTimeSpectrum {
    return this.kernels.floats(SPECTRUM_FLOATS);
  }

  /** Writes the short-time spectrum of a window, read from `shift` frames later on (for aligning a reference). Both in the kernels' memory. */
  spectrumOf(samples: Float32Array, shift: number, spectra: ShortTimeSpectrum): void {
    for (let index = 0; index < FRAMES; index++) {
      const start = index * HOP + shift;
      const from = max(0, -start);
      const to = min(FRAME, samples.length - start);
      if (from > 0 || to < FRAME) this.frame.fill(0);
      if (to > from)
        this.kernels.loops.multiply(
          samples.byteOffset + (start + from) * BYTES,
          this.slope.byteOffset + from * BYTES,
          this.frame.byteOffset + from * BYTES,
          to - from,
        );
      this.fft.forward(this.frame, this.spectrum);
      spectra.set(this.spectrum.subarray(2 * LOW_BIN, 2 * (LOW_BIN + BINS)), index * BINS * 2);
    }
  }

  /**
   * Returns the gain of the reference in the track.
   * @param reference spectrum of the reference, already shifted by the whole frames of the lag
   * @param fraction the part of a frame by which the track lags on top of that
   * @param stretches the quarter-second stretches of the window to look at; all when there is none
   */
  gainOf(
    reference: ShortTimeSpectrum,
    track: ShortTimeSpectrum,
    fraction: number,
    stretches: boolean[],
  ): GainEstimate {
    this.multiply(reference, track, fraction);
    const isAny = stretches.includes(true);
    for (let index = 0; index < FRAMES; index++) {
      this.used[index] = !isAny || stretches[floor((index * HOP + FRAME / 2) / (STRETCH_S * RATE))] ? 1 : 0;
    }
    let estimate = this.fit(0);
    for (let round = 1; round < ROUNDS; round++) estimate = this.fit(estimate.gain);
    return estimate;
  }

  /** Powers of both sides and their cross term, for every bin. */
  private multiply(reference: ShortTimeSpectrum, track: ShortTimeSpectrum, fraction: number): void {
    for (let bin = 0; bin < BINS; bin++) {
      const angle = (2 * Math.PI * (bin + LOW_BIN) * fraction) / FRAME;
      this.cos[bin] = cos(angle);
      this.sin[bin] = sin(angle);
    }
    for (let index = 0; index < FRAMES; index++) {
      const row = rowAt(index);
      this.kernels.loops.powersAndCross(
        reference.byteOffset + index * BINS * 2 * BYTES,
        track.byteOffset + index * BINS * 2 * BYTES,
        this.cos.byteOffset,
        this.sin.byteOffset,
        this.own.byteOffset + row,
        this.whole.byteOffset + row,
        this.cross.byteOffset + row,
        BINS,
      );
    }
  }

  private fit(gain: number): GainEstimate {
    const { own, whole, cross, sums } = this;
    sums.fill(0);
    for (let index = 0; index < FRAMES; index++) {
      if (this.used[index] === 0) continue;
      const row = rowAt(index);
      this.kernels.loops.fitGain(
        own.byteOffset + row,
        whole.byteOffset + row,
        cross.byteOffset + row,
        BINS,
        gain,
        sums.byteOffset,
      );
    }
    const [top, bottom] = sums;
    return bottom > 0 ? { gain: top / bottom, weight: bottom } : { gain: 0, weight: 0 };
  }
}

/** Where the bins of a frame begin (bytes): after the zeros that stand between rows. */
function rowAt(index: number): number {
  return (4 + index * ROW) * BYTES;
}
