import type { Kernels } from '../../kernels/kernels.ts';
import type { RealFft } from '../fft.ts';
import { HIGH_HZ, LOW_HZ, RATE, STRETCH_S, WINDOW_FRAMES } from './windows.ts';

const { abs, ceil, cos, floor, max, min, sin, sqrt } = Math;

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
/** The gain is looked at in so many bands, too, where a sound may have lost some on its way: each so many times as wide as the one before. */
const BANDS = 8;
const EDGES = Array.from({ length: BANDS + 1 }, (_, edge) =>
  edge === 0 ? 0 : min(BINS, 4 * ceil((BINS * 2 ** ((edge - BANDS) / 1.5)) / 4)),
);
/** A band hears the sound when its gain stands so many times above its uncertainty. */
const BAND_HEARS = 3;

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
  private readonly ones: Float32Array;
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
    this.ones = kernels.floats(BINS).fill(1);
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
   * @param mayBeColoured whether it is sure enough that the sound is there to ask single bands
   */
  gainOf(
    reference: ShortTimeSpectrum,
    track: ShortTimeSpectrum,
    fraction: number,
    stretches: boolean[],
    mayBeColoured = false,
  ): GainEstimate {
    this.multiply(reference, track, fraction);
    const isAny = stretches.includes(true);
    for (let index = 0; index < FRAMES; index++) {
      this.used[index] = !isAny || stretches[floor((index * HOP + FRAME / 2) / (STRETCH_S * RATE))] ? 1 : 0;
    }
    const whole = this.fitIn(0, BINS);
    return (mayBeColoured ? this.coloured(whole) : null) ?? whole;
  }

  /**
   * A sound that lost part of its range on its way (into a track of a lower rate, through headphones into a microphone) is not there in some bands, and
   * where nothing else sounds in them, they would outweigh all others. Where two bands hear it better than all do together, the gain is
   * the root of its power in the track over that of the reference, and as certain as the second of them. Null where that is not so.
   */
  private coloured(whole: GainEstimate): GainEstimate | null {
    const bands = Array.from({ length: BANDS }, (_, band) => {
      const [from, to] = [EDGES[band], EDGES[band + 1]];
      const estimate = this.fitIn(from, to);
      return {
        ...estimate,
        certain: abs(estimate.gain) * sqrt(estimate.weight),
        power: this.powerIn(from, to),
      };
    });
    const hearing = bands
      .filter(({ certain }) => certain >= BAND_HEARS)
      .sort((a, b) => b.certain - a.certain);
    const agreeing = hearing.filter(({ gain }) => gain * hearing[0].gain > 0);
    if (agreeing.length < 2 || agreeing[1].certain <= abs(whole.gain) * sqrt(whole.weight)) return null;
    const arriving = agreeing.reduce((sum, { gain, power }) => sum + gain * gain * power, 0);
    const all = bands.reduce((sum, { power }) => sum + power, 0);
    const gain = Math.sign(agreeing[0].gain) * sqrt(arriving / all);
    return { gain, weight: (agreeing[1].certain / gain) ** 2 };
  }

  /** Fits the gain in a range of bins, in a few rounds. */
  private fitIn(from: number, to: number): GainEstimate {
    let estimate = this.fit(0, from, to);
    for (let round = 1; round < ROUNDS; round++) estimate = this.fit(estimate.gain, from, to);
    return estimate;
  }

  /** The power of the reference in a range of bins. */
  private powerIn(from: number, to: number): number {
    let power = 0;
    for (let index = 0; index < FRAMES; index++)
      if (this.used[index] === 1)
        power += this.kernels.loops.dot(
          this.own.byteOffset + rowAt(index) + from * BYTES,
          this.ones.byteOffset,
          to - from,
        );
    return power;
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

  private fit(gain: number, from: number, to: number): GainEstimate {
    const { own, whole, cross, sums } = this;
    sums.fill(0);
    for (let index = 0; index < FRAMES; index++) {
      if (this.used[index] === 0) continue;
      const row = rowAt(index) + from * BYTES;
      this.kernels.loops.fitGain(
        own.byteOffset + row,
        whole.byteOffset + row,
        cross.byteOffset + row,
        to - from,
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
