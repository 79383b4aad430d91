import { Kernels } from '../kernels/kernels.ts';
import type { MakeFft, RealFft } from '../measure/fft.ts';
import { codeOf, HIGH_HZ, LOW_HZ, PERIOD_FRAMES } from './code.ts';
import { fold, heightOf, PERIOD, READ_RATE } from './periods.ts';

const { abs, ceil, floor, max, min, PI } = Math;

const LOW_BIN = evenBin(ceil((LOW_HZ / READ_RATE) * PERIOD));
const HIGH_BIN = evenBin((HIGH_HZ / READ_RATE) * PERIOD);
/** What is done to a sound on its way differs little within so many bins (33 Hz). */
const SMOOTH_BINS = 100;
/** Where there is next to no sound, it counts as if there were this share of the mean power of the band. */
const FLOOR_SHARE = 1e-3;
const LEAST_POWER = 1e-12;
/**
 * A correlation stands out that is this many spreads high, and this much higher than that of any code that was not played: the
 * decoys are the null distribution, in the same recording.
 */
const LEAST_HEIGHT = 7.5;
export const OVER_DECOYS = 1.25;

/** One period of a sound as its spectrum: interleaved, up to {@link HIGH_HZ}. */
export type Spectrum = Float32Array;

/** One period of a sound, with the weight of each of its bins. */
export interface PeriodSound {
  sound: Spectrum;
  weights: Float32Array;
}

/** A code with its spectrum. */
export interface Code {
  name: string;
  /** Whose it is, as `Players` counts them: the codes of one source sound at the same time. */
  source: number;
  /** In the memory of the loops. */
  spectrum: Spectrum;
}

/** How many codes there are, and how long the longest channel is (frames). */
export interface SpectraSize {
  codes: number;
  frames: number;
}

/** Where the spectrum of a period and its weights lie in the memory of the loops: the addresses of the lowest bin that codes have. */
interface BinsAt {
  sound: number;
  weights: number;
}

/**
 * Transforms of one period, and what is computed with them: correlations with a code, and how loud a code is in a sound. All sums over
 * frequency are weighted by what else sounds there (the matched filter in coloured noise; Turin, IRE Trans. IT-6, 1960).
 */
export class PeriodSpectra {
  readonly loops: Kernels['loops'];
  private readonly kernels: Kernels;
  private readonly codeFft: RealFft;
  private readonly fft: RealFft;
  private readonly whole: Float32Array;
  private readonly folded: Float32Array;
  private readonly lags: Float32Array;
  private readonly held: Float32Array;
  private readonly sums: Float64Array;
  /** The period that is worked on, of which a copy lies in the memory of the loops, up to a bin. */
  private readonly sound: Spectrum;
  private readonly weights: Float32Array;
  private loaded: PeriodSound | null = null;
  private loadedBins = 0;

  constructor(makeFft: MakeFft, { codes, frames }: SpectraSize) {
    this.codeFft = makeFft(PERIOD_FRAMES);
    this.fft = makeFft(PERIOD);
    const kernels = new Kernels((codes + 1) * (2 * HIGH_BIN + 4) + HIGH_BIN + frames + 8 * (PERIOD + 4));
    this.kernels = kernels;
    this.loops = kernels.loops;
    this.whole = kernels.floats(PERIOD);
    this.folded = kernels.floats(PERIOD);
    this.lags = kernels.floats(PERIOD);
    this.held = kernels.floats(frames);
    this.sums = kernels.doubles(3);
    this.sound = kernels.floats(2 * HIGH_BIN);
    this.weights = kernels.floats(HIGH_BIN);
  }

  codeNamed(name: string, source: number): Code {
    const whole = new Float32Array(PERIOD_FRAMES);
    this.codeFft.forward(codeOf(name), whole);
    const spectrum = this.kernels.copyOf(whole.subarray(0, 2 * HIGH_BIN));
    this.loops.scale(spectrum.byteOffset, 0.5, spectrum.length);
    spectrum.fill(0, 0, 2 * LOW_BIN);
    return { name, source, spectrum };
  }

  /** Room for one period, in the memory of the loops. */
  newPeriod(): Float32Array {
    return this.kernels.floats(PERIOD);
  }

  /** Copies samples into the memory of the loops, where they stay until others are held. */
  hold(samples: Float32Array): Float32Array {
    this.held.set(samples);
    return this.held.subarray(0, samples.length);
  }

  /** @param period {@link PERIOD} frames, which are taken to repeat */
  soundOf(period: Float32Array): PeriodSound {
    const { whole, sound, weights } = this;
    this.fft.forward(period, whole);
    sound.set(whole.subarray(0, 2 * HIGH_BIN));
    sound.fill(0, 0, 2 * LOW_BIN);
    const bins = HIGH_BIN - LOW_BIN;
    const at = lowestOf(sound, 2);
    this.loops.inversePowers(at, bins, SMOOTH_BINS, FLOOR_SHARE, LEAST_POWER, lowestOf(weights, 1));
    this.loaded = { sound: sound.slice(), weights: weights.slice() };
    this.loadedBins = HIGH_BIN;
    return this.loaded;
  }

  /**
   * The mean of all whole periods of a sound from one frame to another (see {@link fold}); null where there is none.
   * @param held see {@link hold}
   */
  meanOf(held: Float32Array, from = 0, to = held.length): PeriodSound | null {
    return fold(this.loops, this.folded, held, from, to) ? this.soundOf(this.folded) : null;
  }

  /** The mean power of a period in the band of the codes. */
  powerOf(period: Float32Array): number {
    const { loops, whole } = this;
    this.fft.forward(period, whole);
    const at = lowestOf(whole, 2);
    return (2 * loops.dot(at, at, 2 * (HIGH_BIN - LOW_BIN))) / PERIOD ** 2;
  }

  /** Writes one period of a code, later by a fraction of a frame. @param period in the memory of the loops */
  delayed({ spectrum }: Code, fraction: number, period: Float32Array): Float32Array {
    const { loops, whole } = this;
    whole.fill(0);
    const angle = (-2 * PI * fraction) / PERIOD;
    loops.turnBins(lowestOf(spectrum, 2), LOW_BIN, HIGH_BIN - LOW_BIN, angle, lowestOf(whole, 2));
    this.fft.inverse(whole, period);
    loops.scale(period.byteOffset, 1 / PERIOD, PERIOD);
    return period;
  }

  /**
   * How loud a code is in a sound at each lag, as a gain; it is right where nothing but the code sounds.
   * @param lags overwritten; in the memory of the loops (see {@link newPeriod})
   */
  correlate(period: PeriodSound, code: Code, lags: Float32Array): void {
    this.cross(period, code, HIGH_BIN, this.whole);
    this.fft.inverse(this.whole, lags);
  }

  /**
   * Writes the weighted cross-spectrum of a sound and a code, up to a bin, so that its inverse transform is how loud the code is; whatever
   * lies outside is nought.
   * @param cross in the memory of the loops
   */
  cross(period: PeriodSound, { spectrum }: Code, toBin: number, cross: Float32Array): void {
    const { loops } = this;
    const at = this.load(period, toBin);
    const code = lowestOf(spectrum, 2);
    const bins = toBin - LOW_BIN;
    const scale = 0.5 / loops.weightedPower(code, at.weights, bins);
    cross.fill(0);
    loops.crossWeighted(at.sound, code, at.weights, bins, scale, lowestOf(cross, 2));
  }

  /** How loud a code seems to be in a period where it is likest to it (as a gain), and how many spreads of the other lags that is. */
  peakIn(period: PeriodSound, code: Code): { gain: number; height: number } {
    this.correlate(period, code, this.lags);
    const at = this.highest(this.lags);
    return { gain: abs(this.lags[at]), height: heightOf(this.lags, at) };
  }

  /** The lag at which a correlation is highest, of either polarity. */
  highest(lags: Float32Array): number {
    return this.loops.placeOfHighest(lags.byteOffset, lags.length);
  }

  /** How many spreads high a code must be in a period to stand out there. @param decoys codes that nobody plays */
  leastHeightIn(period: PeriodSound, decoys: Code[]): number {
    return max(LEAST_HEIGHT, ...decoys.map((decoy) => OVER_DECOYS * this.peakIn(period, decoy).height));
  }

  /**
   * Fits a code near a lag: the lag (frames, with a fraction) at which it fits best, and its gain there, by Gauss–Newton on the
   * weighted least squares.
   */
  fit(period: PeriodSound, { spectrum }: Code, near: number): { lag: number; gain: number } {
    const { loops, sums } = this;
    const at = this.load(period, HIGH_BIN);
    const code = lowestOf(spectrum, 2);
    const bins = HIGH_BIN - LOW_BIN;
    const whole = loops.weightedPower(code, at.weights, bins);
    const each = (2 * PI) / PERIOD;
    let lag = near;
    let gain = 0;
    for (let round = 0; round < 6; round++) {
      loops.fitOfCode(at.sound, code, at.weights, LOW_BIN, bins, each * lag, each, sums.byteOffset);
      const [like, slope, bend] = sums;
      gain = like / whole;
      if (bend * like >= 0) break;
      const step = max(-1, min(1, -slope / bend));
      lag += step;
      if (abs(step) < 1e-3) break;
    }
    return { lag, gain };
  }

  /** The mean power of a bin of a code. */
  meanPower({ spectrum }: Code): number {
    return this.loops.dot(spectrum.byteOffset, spectrum.byteOffset, spectrum.length) / (HIGH_BIN - LOW_BIN);
  }

  /** The same sound without a code at a lag (frames), of a gain. */
  without(
    { sound, weights }: PeriodSound,
    { spectrum }: Code,
    { lag, gain }: { lag: number; gain: number },
  ): PeriodSound {
    const { loops, whole } = this;
    const angle = (-2 * PI * lag) / PERIOD;
    loops.turnBins(lowestOf(spectrum, 2), LOW_BIN, HIGH_BIN - LOW_BIN, angle, lowestOf(whole, 2));
    const left = sound.slice();
    for (let i = 2 * LOW_BIN; i < left.length; i++) left[i] -= gain * whole[i];
    return { sound: left, weights };
  }

  /** Copies a period into the memory of the loops, up to a bin, where it is not there already. */
  private load(period: PeriodSound, toBin: number): BinsAt {
    const { sound, weights } = this;
    if (this.loaded !== period || this.loadedBins < toBin) {
      sound.set(period.sound.subarray(0, 2 * toBin));
      weights.set(period.weights.subarray(0, toBin));
      this.loaded = period;
      this.loadedBins = toBin;
    }
    return { sound: lowestOf(sound, 2), weights: lowestOf(weights, 1) };
  }
}

/** Rounds down to an even number: the loops take two bins at a time. */
export function evenBin(bin: number): number {
  return 2 * floor(bin / 2);
}

/** The address of the lowest bin that codes have; each bin has so many values. */
function lowestOf({ byteOffset, BYTES_PER_ELEMENT }: Float32Array, values: number): number {
  return byteOffset + values * LOW_BIN * BYTES_PER_ELEMENT;
}
