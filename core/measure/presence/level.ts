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
/** What lies this far below the strongest bin of a track's window (−85 dB) is empty: nothing at all sounds there. */
const EMPTY_SHARE = 3e-9;
/** Sums that are compared with it are of so many bins. */
const SMOOTHED = 5;
/** The filter that ends a range leaves little of the bins below its end, too. */
const RANGE_SHARE = 0.85;
/** The gain is also fitted in parts: in so many bands, each wider than the one before, and in so many pieces of the window. */
const BANDS = 8;
const EDGES = Array.from({ length: BANDS + 1 }, (_, edge) =>
  edge === 0 ? 0 : min(BINS, 4 * ceil((BINS * 2 ** ((edge - BANDS) / 1.5)) / 4)),
);
const PIECES = 6;
/** A part hears the sound when its gain stands so many times above its uncertainty; so many bands, or parts of both kinds, have to agree. */
const PART_HEARS = 3;
const AGREEING_BANDS = 2;
const AGREEING_PARTS = 4;
/** They are asked when they are surer than the whole, or find the sound this many times as loud (6 dB). */
const MUCH_LOUDER = 2;

/** How long a {@link ShortTimeSpectrum} is. */
export const SPECTRUM_FLOATS = FRAMES * BINS * 2;
/** A short-time spectrum of one window: frames of `BINS` bins of the band, interleaved. */
export type ShortTimeSpectrum = Float32Array;

/** A least-squares gain and how much weight it deserves (the inverse of its variance, relative to others). */
export interface GainEstimate {
  gain: number;
  weight: number;
}

/** A part of a window: some of its bins (up to, but without `to`) in some of its frames. */
interface Part {
  from: number;
  to: number;
  firstFrame: number;
  endFrame: number;
}
const WHOLE: Part = { from: 0, to: BINS, firstFrame: 0, endFrame: FRAMES };

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
  private readonly mean: Float32Array;
  private readonly ones: Float32Array;
  /** What no more than comes to is empty (five powers of the track). */
  private empty = 0;
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
    this.mean = kernels.floats(BINS);
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
   * @param mayBeInParts whether it is sure enough that the sound is there to ask single parts of the window
   */
  gainOf(
    reference: ShortTimeSpectrum,
    track: ShortTimeSpectrum,
    fraction: number,
    stretches: boolean[],
    mayBeInParts = false,
  ): GainEstimate {
    this.multiply(reference, track, fraction);
    const isAny = stretches.includes(true);
    for (let index = 0; index < FRAMES; index++) {
      this.used[index] = !isAny || stretches[floor((index * HOP + FRAME / 2) / (STRETCH_S * RATE))] ? 1 : 0;
    }
    const range = this.findRange();
    const whole = this.fitIn({ ...WHOLE, to: range });
    if (!mayBeInParts) return whole;
    return (
      this.heardInParts(whole, 1, AGREEING_BANDS) ?? this.heardInParts(whole, PIECES, AGREEING_PARTS) ?? whole
    );
  }

  /**
   * Finds what is empty in the track, and up to which bin there is sound in it. What lies above (the range of a lower rate, or of a coder) says
   * nothing of what is in the track, nor does a gate that is closed.
   */
  private findRange(): number {
    const { loops } = this.kernels;
    let strongest = 0;
    this.mean.fill(0);
    for (let index = 0; index < FRAMES; index++) {
      if (this.used[index] === 0) continue;
      const row = this.whole.byteOffset + rowAt(index);
      strongest = max(strongest, loops.highest(row, BINS));
      loops.addScaled(row, 1, this.mean.byteOffset, BINS);
    }
    this.empty = SMOOTHED * EMPTY_SHARE * strongest;
    const least = EMPTY_SHARE * loops.highest(this.mean.byteOffset, BINS);
    let bins = BINS;
    while (bins > 0 && this.mean[bins - 1] <= least) bins -= 1;
    return bins === BINS || bins === 0 ? BINS : 4 * floor((RANGE_SHARE * bins) / 4);
  }

  /**
   * A sound may be there in parts only: it lost some of its range on its way (headphones into a microphone), or a gate let it through at times.
   * Where nothing else sounds, what is missing outweighs all that is there. Where some parts hear it better than all do together, or much
   * louder, the gain is the root of its power in the track over that of the reference, while it is heard, and as certain as the last of those
   * parts. Null where that is not so.
   */
  private heardInParts(whole: GainEstimate, pieces: number, least: number): GainEstimate | null {
    const parts = Array.from({ length: BANDS * pieces }, (_, at) => {
      const [band, piece] = [at % BANDS, floor(at / BANDS)];
      const part: Part = {
        from: EDGES[band],
        to: EDGES[band + 1],
        firstFrame: floor((FRAMES * piece) / pieces),
        endFrame: floor((FRAMES * (piece + 1)) / pieces),
      };
      const { gain, weight } = this.fitIn(part);
      return { part, gain, certain: abs(gain) * sqrt(weight) };
    });
    const hearing = parts
      .filter(({ certain }) => certain >= PART_HEARS)
      .sort((a, b) => b.certain - a.certain);
    const agreeing = hearing.filter(({ gain }) => gain * hearing[0].gain > 0);
    const last = agreeing.at(least - 1);
    if (!last) return null;
    const heardAt = new Set(agreeing.map(({ part }) => part.firstFrame));
    const all = parts.filter(({ part }) => heardAt.has(part.firstFrame));
    const power = all.reduce((sum, { part }) => sum + this.powerIn(part), 0);
    const arriving = agreeing.reduce((sum, { part, gain }) => sum + gain * gain * this.powerIn(part), 0);
    const gain = Math.sign(agreeing[0].gain) * sqrt(arriving / power);
    const isSurer = last.certain > abs(whole.gain) * sqrt(whole.weight);
    const isLouder = abs(gain) > MUCH_LOUDER * abs(whole.gain);
    return isSurer || isLouder ? { gain, weight: (last.certain / gain) ** 2 } : null;
  }

  /** Fits the gain in a part of the window, in a few rounds. */
  private fitIn(part: Part): GainEstimate {
    let estimate = this.fit(0, part);
    for (let round = 1; round < ROUNDS; round++) estimate = this.fit(estimate.gain, part);
    return estimate;
  }

  /** The power of the reference in a part of the window. */
  private powerIn({ from, to, firstFrame, endFrame }: Part): number {
    let power = 0;
    for (let index = firstFrame; index < endFrame; index++)
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

  private fit(gain: number, { from, to, firstFrame, endFrame }: Part): GainEstimate {
    const { own, whole, cross, sums } = this;
    sums.fill(0);
    for (let index = firstFrame; index < endFrame; index++) {
      if (this.used[index] === 0) continue;
      const row = rowAt(index) + from * BYTES;
      this.kernels.loops.fitGain(
        own.byteOffset + row,
        whole.byteOffset + row,
        cross.byteOffset + row,
        to - from,
        gain,
        this.empty,
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
