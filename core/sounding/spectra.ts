import type { MakeFft, RealFft } from '../measure/fft.ts';
import { codeOf, HIGH_HZ, LOW_HZ, PERIOD_FRAMES } from './code.ts';
import { fold, heightOf, highest, PERIOD, READ_RATE } from './periods.ts';

const { abs, ceil, cos, floor, max, min, PI, sin } = Math;

const LOW_BIN = ceil((LOW_HZ / READ_RATE) * PERIOD);
const HIGH_BIN = floor((HIGH_HZ / READ_RATE) * PERIOD);
/** What is done to a sound on its way differs little within so many bins (33 Hz). */
const SMOOTH_BINS = 100;
/** Where there is next to no sound, it counts as if there were this share of the mean power of the band. */
const FLOOR_SHARE = 1e-3;
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
  /** Whose it is: the codes of one source sound at the same time. */
  source: number;
  spectrum: Spectrum;
}

/**
 * Transforms of one period, and what is computed with them: correlations with a code, and how loud a code is in a sound. All sums over
 * frequency are weighted by what else sounds there (the matched filter in coloured noise; Turin, IRE Trans. IT-6, 1960).
 */
export class PeriodSpectra {
  private readonly codeFft: RealFft;
  private readonly fft: RealFft;
  private readonly whole = new Float32Array(PERIOD);
  private readonly folded = new Float32Array(PERIOD);
  private readonly lags = new Float32Array(PERIOD);

  constructor(makeFft: MakeFft) {
    this.codeFft = makeFft(PERIOD_FRAMES);
    this.fft = makeFft(PERIOD);
  }

  codeNamed(name: string, source: number): Code {
    const whole = new Float32Array(PERIOD_FRAMES);
    this.codeFft.forward(codeOf(name), whole);
    const spectrum = whole.slice(0, 2 * HIGH_BIN).map((value) => value / 2);
    spectrum.fill(0, 0, 2 * LOW_BIN);
    return { name, source, spectrum };
  }

  /** @param period {@link PERIOD} frames, which are taken to repeat */
  soundOf(period: Float32Array): PeriodSound {
    this.fft.forward(period, this.whole);
    const sound = this.whole.slice(0, 2 * HIGH_BIN);
    sound.fill(0, 0, 2 * LOW_BIN);
    return { sound, weights: weightsFor(sound) };
  }

  /** The mean of all whole periods of a sound from one frame to another (see {@link fold}); null where there is none. */
  meanOf(samples: Float32Array, from = 0, to = samples.length): PeriodSound | null {
    return fold(this.folded, samples, from, to) ? this.soundOf(this.folded) : null;
  }

  /** One period of a code, later by a fraction of a frame. */
  delayed({ spectrum }: Code, fraction: number): Float32Array {
    this.whole.fill(0);
    turned(spectrum, fraction, this.whole);
    const period = new Float32Array(PERIOD);
    this.fft.inverse(this.whole, period);
    for (let i = 0; i < PERIOD; i++) period[i] /= PERIOD;
    return period;
  }

  /**
   * How loud a code is in a sound at each lag, as a gain; it is right where nothing but the code sounds.
   * @param lags overwritten
   */
  correlate({ sound, weights }: PeriodSound, { spectrum }: Code, lags: Float32Array): void {
    crossed(sound, spectrum, weights, HIGH_BIN, this.whole, 0.5 / weightedPower(spectrum, weights));
    this.fft.inverse(this.whole, lags);
  }

  /** How loud a code seems to be in a period where it is likest to it (as a gain), and how many spreads of the other lags that is. */
  peakIn(period: PeriodSound, code: Code): { gain: number; height: number } {
    this.correlate(period, code, this.lags);
    const at = highest(this.lags);
    return { gain: abs(this.lags[at]), height: heightOf(this.lags, at) };
  }

  /** How many spreads high a code must be in a period to stand out there. @param decoys codes that nobody plays */
  leastHeightIn(period: PeriodSound, decoys: Code[]): number {
    return max(LEAST_HEIGHT, ...decoys.map((decoy) => OVER_DECOYS * this.peakIn(period, decoy).height));
  }

  /**
   * Fits a code near a lag: the lag (frames, with a fraction) at which it fits best, and its gain there, by Gauss–Newton on the
   * weighted least squares.
   */
  fit({ sound, weights }: PeriodSound, { spectrum }: Code, near: number): { lag: number; gain: number } {
    const whole = weightedPower(spectrum, weights);
    let lag = near;
    let gain = 0;
    for (let round = 0; round < 6; round++) {
      let like = 0;
      let slope = 0;
      let bend = 0;
      // The turn of each bin comes from that of the one before.
      const by = (2 * PI * lag) / PERIOD;
      const [byRe, byIm] = [cos(by), sin(by)];
      let [turnRe, turnIm] = [cos(by * LOW_BIN), sin(by * LOW_BIN)];
      for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
        const xr = sound[2 * bin];
        const xi = sound[2 * bin + 1];
        const cr = spectrum[2 * bin];
        const ci = spectrum[2 * bin + 1];
        const crossRe = (xr * cr + xi * ci) * weights[bin];
        const crossIm = (xi * cr - xr * ci) * weights[bin];
        const omega = (2 * PI * bin) / PERIOD;
        const along = crossRe * turnRe - crossIm * turnIm;
        like += along;
        slope -= omega * (crossRe * turnIm + crossIm * turnRe);
        bend -= omega * omega * along;
        const turned = turnRe * byRe - turnIm * byIm;
        turnIm = turnRe * byIm + turnIm * byRe;
        turnRe = turned;
      }
      gain = like / whole;
      if (bend * like >= 0) break;
      const step = max(-1, min(1, -slope / bend));
      lag += step;
      if (abs(step) < 1e-3) break;
    }
    return { lag, gain };
  }
}

/** Weights that count each band by how little sounds in it. */
function weightsFor(sound: Spectrum): Float32Array {
  const sums = new Float64Array(HIGH_BIN + 1);
  let sum = 0;
  for (let bin = 0; bin < HIGH_BIN; bin++) {
    sum += powerAt(sound, bin);
    sums[bin + 1] = sum;
  }
  const floorPower = max(1e-12, (FLOOR_SHARE * sums[HIGH_BIN]) / (HIGH_BIN - LOW_BIN));
  const weights = new Float32Array(HIGH_BIN);
  for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
    const from = max(LOW_BIN, bin - SMOOTH_BINS);
    const to = min(HIGH_BIN, bin + SMOOTH_BINS);
    weights[bin] = 1 / (floorPower + (sums[to] - sums[from]) / (to - from));
  }
  return weights;
}

/** Writes the weighted cross-spectrum of a sound and a code, up to a bin, times a scale; whatever lies outside is nought. */
export function crossed(
  sound: Spectrum,
  code: Spectrum,
  weights: Float32Array,
  toBin: number,
  cross: Float32Array,
  scale = 1,
): void {
  cross.fill(0);
  for (let bin = LOW_BIN; bin < toBin; bin++) {
    const xr = sound[2 * bin];
    const xi = sound[2 * bin + 1];
    const cr = code[2 * bin];
    const ci = code[2 * bin + 1];
    const weight = scale * weights[bin];
    cross[2 * bin] = (xr * cr + xi * ci) * weight;
    cross[2 * bin + 1] = (xi * cr - xr * ci) * weight;
  }
}

/** The power of a code up to a bin, each bin by its weight. */
export function weightedPower(spectrum: Spectrum, weights: Float32Array, toBin = HIGH_BIN): number {
  let power = 0;
  for (let bin = LOW_BIN; bin < toBin; bin++) power += powerAt(spectrum, bin) * weights[bin];
  return power;
}

function powerAt(spectrum: Spectrum, bin: number): number {
  const re = spectrum[2 * bin];
  const im = spectrum[2 * bin + 1];
  return re * re + im * im;
}

/** Turns the phases of a spectrum as a delay of so many frames does. */
function turned(spectrum: Spectrum, frames: number, to: Float32Array): void {
  const by = (-2 * PI * frames) / PERIOD;
  const byRe = cos(by);
  const byIm = sin(by);
  // The turn of each bin comes from that of the one before.
  let re = cos(by * LOW_BIN);
  let im = sin(by * LOW_BIN);
  for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
    const cr = spectrum[2 * bin];
    const ci = spectrum[2 * bin + 1];
    to[2 * bin] = cr * re - ci * im;
    to[2 * bin + 1] = cr * im + ci * re;
    const next = re * byRe - im * byIm;
    im = re * byIm + im * byRe;
    re = next;
  }
}
