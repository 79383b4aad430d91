import type { RealFft } from '../fft.ts';
import { HIGH_HZ, LOW_HZ, RATE, STRETCH_S, WINDOW_FRAMES } from './windows.ts';

const { cos, floor, max, min, sin } = Math;

const FRAME = 4096;
const HOP = FRAME;
const FRAMES = floor((WINDOW_FRAMES - FRAME) / HOP) + 1;
const LOW_BIN = Math.ceil((LOW_HZ / RATE) * FRAME);
const HIGH_BIN = floor((HIGH_HZ / RATE) * FRAME);
const BINS = HIGH_BIN - LOW_BIN + 1;
const SMOOTH = 2;
const ROUNDS = 3;

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
  private readonly slope = new Float32Array(FRAME);
  private readonly frame = new Float32Array(FRAME);
  private readonly spectrum = new Float32Array(FRAME);
  private readonly own = new Float32Array(FRAMES * BINS);
  private readonly cross = new Float32Array(FRAMES * BINS);
  private readonly whole = new Float32Array(FRAMES * BINS);
  private readonly used = new Uint8Array(FRAMES);
  private readonly cos = new Float64Array(BINS);
  private readonly sin = new Float64Array(BINS);

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft) {
    this.fft = makeFft(FRAME);
    for (let i = 0; i < FRAME; i++) this.slope[i] = sin((Math.PI * (i + 0.5)) / FRAME);
  }

  newSpectrum(): ShortTimeSpectrum {
    return new Float32Array(FRAMES * BINS * 2);
  }

  /** Writes the short-time spectrum of a window, read from `shift` frames later on (for aligning a reference). */
  spectrumOf(samples: Float32Array, shift: number, spectra: ShortTimeSpectrum): void {
    for (let index = 0; index < FRAMES; index++) {
      const start = index * HOP + shift;
      const from = max(0, -start);
      const to = min(FRAME, samples.length - start);
      if (from > 0 || to < FRAME) this.frame.fill(0);
      for (let i = from; i < to; i++) this.frame[i] = samples[start + i] * this.slope[i];
      this.fft.forward(this.frame, this.spectrum);
      spectra.set(this.spectrum.subarray(2 * LOW_BIN, 2 * HIGH_BIN + 2), index * BINS * 2);
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

  /** Powers of both sides and their cross term, for every bin, smoothed over neighbouring bins for the weights. */
  private multiply(reference: ShortTimeSpectrum, track: ShortTimeSpectrum, fraction: number): void {
    for (let bin = 0; bin < BINS; bin++) {
      const angle = (2 * Math.PI * (bin + LOW_BIN) * fraction) / FRAME;
      this.cos[bin] = cos(angle);
      this.sin[bin] = sin(angle);
    }
    for (let at = 0; at < FRAMES * BINS; at++) {
      const bin = at % BINS;
      const a = reference[2 * at];
      const b = reference[2 * at + 1];
      const c = track[2 * at];
      const d = track[2 * at + 1];
      this.own[at] = a * a + b * b;
      this.whole[at] = c * c + d * d;
      this.cross[at] = (a * c + b * d) * this.cos[bin] - (a * d - b * c) * this.sin[bin];
    }
  }

  private fit(gain: number): GainEstimate {
    let top = 0;
    let bottom = 0;
    for (let index = 0; index < FRAMES; index++) {
      if (this.used[index] === 0) continue;
      const row = index * BINS;
      let own = 0;
      let cross = 0;
      let whole = 0;
      for (let bin = 0; bin < SMOOTH; bin++) {
        own += this.own[row + bin];
        cross += this.cross[row + bin];
        whole += this.whole[row + bin];
      }
      for (let bin = 0; bin < BINS; bin++) {
        const coming = bin + SMOOTH;
        if (coming < BINS) {
          own += this.own[row + coming];
          cross += this.cross[row + coming];
          whole += this.whole[row + coming];
        }
        const going = bin - SMOOTH - 1;
        if (going >= 0) {
          own -= this.own[row + going];
          cross -= this.cross[row + going];
          whole -= this.whole[row + going];
        }
        const rest = whole - 2 * gain * cross + gain * gain * own;
        const weight = 1 / (max(rest, 1e-5 * whole) + 1e-7);
        top += weight * this.cross[row + bin];
        bottom += weight * this.own[row + bin];
      }
    }
    return bottom > 0 ? { gain: top / bottom, weight: bottom } : { gain: 0, weight: 0 };
  }
}
