import { SAMPLE_RATE } from '../audio/planes.ts';
import type { RealFft } from './fft.ts';
import { robustSpread } from './presence/correlate.ts';

const { abs, ceil, log10, max } = Math;

/** One copy of a sound within another one. */
export interface Copy {
  delayMs: number;
  /** Its gain (dB). */
  levelDb: number;
}

/** The sound is looked for up to this late (frames; 0.68 s). */
const MAX_LAG = 32_768;
const SIZE = 2 * MAX_LAG;
const LOW_BIN = ceil((80 / SAMPLE_RATE) * SIZE);
const HIGH_BIN = ceil((12_000 / SAMPLE_RATE) * SIZE);
/** Where the reference has less than this share of its mean power, it says little about the way. */
const FLOOR_SHARE = 0.03;
/** A peak must stand out by so many spreads; other sounds that are heard make peaks of five at most. */
const LEAST_HEIGHT = 12;
/** More copies are not told apart, nor those that are this much below the loudest, nor what is this near to one (frames; filters smear it). */
const MOST_COPIES = 4;
const LEAST_SHARE = 0.03;
const NEAR_FRAMES = 144;

/**
 * Finds out how late, and how often, a sound arrives in another one: the response of the way between them is estimated from
 * their cross-spectrum over that of the first (the H1 estimate; Bendat and Piersol, Random Data, 4th ed., section 6.1), and the
 * strongest arrivals are taken out of it one by one.
 *
 * @example
 * const meter = new EchoMeter(await loadFft());
 * meter.add(voice, heard, heard.length);
 * meter.copies(); // [{ delayMs: 24, levelDb: -6 }]
 * meter.close();
 */
export class EchoMeter {
  private readonly fft: RealFft;
  private readonly reference = new Float32Array(SIZE);
  private readonly heard = new Float32Array(SIZE);
  private readonly spectra = [new Float32Array(SIZE), new Float32Array(SIZE)];
  private readonly own = new Float64Array(MAX_LAG);
  private readonly crossRe = new Float64Array(MAX_LAG);
  private readonly crossIm = new Float64Array(MAX_LAG);
  private filled = 0;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft) {
    this.fft = makeFft(SIZE);
  }

  /** Takes the next frames of the sound, and of what is heard. */
  add(reference: Float32Array, heard: Float32Array, frames: number): void {
    for (let from = 0; from < frames; ) {
      const count = Math.min(frames - from, SIZE - this.filled);
      this.reference.set(reference.subarray(from, from + count), this.filled);
      this.heard.set(heard.subarray(from, from + count), this.filled);
      this.filled += count;
      from += count;
      if (this.filled === SIZE) this.takeWindow();
    }
  }

  /** Returns the copies of the sound in what was heard, the loudest first; none where it was not found. Call it once. */
  copies(): Copy[] {
    const found: { lag: number; gain: number }[] = [];
    while (found.length < MOST_COPIES) {
      const lag = this.strongestLag(found.map((one) => one.lag));
      if (lag === null) break;
      const gain = this.takeOut(lag);
      if (found.length > 0 && abs(gain) < LEAST_SHARE * abs(found[0].gain)) break;
      found.push({ lag, gain });
    }
    return found.map(({ lag, gain }) => ({
      delayMs: (1000 * lag) / SAMPLE_RATE,
      levelDb: 20 * log10(abs(gain)),
    }));
  }

  /** Gives the memory of the transform back. */
  close(): void {
    this.fft.close();
  }

  /** Windows overlap by half: the sound of the first half is looked for in both. */
  private takeWindow(): void {
    const { reference, heard, own, crossRe, crossIm } = this;
    const [x, y] = this.spectra;
    const second = reference.slice(MAX_LAG);
    reference.fill(0, MAX_LAG);
    this.fft.forward(reference, x);
    this.fft.forward(heard, y);
    for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
      const [xr, xi, yr, yi] = [x[2 * bin], x[2 * bin + 1], y[2 * bin], y[2 * bin + 1]];
      own[bin] += xr * xr + xi * xi;
      crossRe[bin] += xr * yr + xi * yi;
      crossIm[bin] += xr * yi - xi * yr;
    }
    reference.set(second);
    heard.copyWithin(0, MAX_LAG);
    this.filled = MAX_LAG;
  }

  /** The lag of the highest peak of the response, apart from what was found; null where none stands out. */
  private strongestLag(known: number[]): number | null {
    const { own, crossRe, crossIm } = this;
    const mean = own.reduce((sum, power) => sum + power, 0) / (HIGH_BIN - LOW_BIN);
    if (mean === 0) return null;
    const [spectrum, response] = this.spectra;
    spectrum.fill(0);
    for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
      const weight = 1 / (own[bin] + FLOOR_SHARE * mean);
      spectrum[2 * bin] = crossRe[bin] * weight;
      spectrum[2 * bin + 1] = crossIm[bin] * weight;
    }
    this.fft.inverse(spectrum, response);
    const lags = response.subarray(0, MAX_LAG);
    for (const lag of known) lags.fill(0, max(0, lag - NEAR_FRAMES), lag + NEAR_FRAMES);
    let best = 0;
    for (let lag = 0; lag < MAX_LAG; lag++) if (abs(lags[lag]) > abs(lags[best])) best = lag;
    return abs(lags[best]) > LEAST_HEIGHT * robustSpread(lags) ? best : null;
  }

  /** Takes a copy out of the cross-spectrum. @returns its gain, by least squares */
  private takeOut(lag: number): number {
    const { own, crossRe, crossIm } = this;
    let like = 0;
    let whole = 0;
    for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
      const turn = (2 * Math.PI * bin * lag) / SIZE;
      like += crossRe[bin] * Math.cos(turn) - crossIm[bin] * Math.sin(turn);
      whole += own[bin];
    }
    const gain = like / whole;
    for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
      const turn = (2 * Math.PI * bin * lag) / SIZE;
      crossRe[bin] -= gain * own[bin] * Math.cos(turn);
      crossIm[bin] += gain * own[bin] * Math.sin(turn);
    }
    return gain;
  }
}
