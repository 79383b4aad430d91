import { SAMPLE_RATE } from '../audio/planes.ts';
import { median } from '../median.ts';
import type { MakeFft, RealFft } from './fft.ts';
import { hann } from './hann.ts';
import { SPREAD_PER_MAD } from './presence/correlate.ts';

const { abs, cos, log, log10, max, min, PI, round, sin } = Math;

/** A second arrival of a track's own sound. */
export interface Doubling {
  delayMs: number;
  /** How loud the second arrival is beside the first (dB). */
  levelDb: number;
}

/** A frame is so long (1.4 s); a copy that comes much later is no longer in it. */
const SIZE = 65_536;
const BINS = SIZE / 2;
const WINDOW = hann(SIZE);
/** Copies are looked for from so late (what comes sooner is colour, and the pitch of voices) up to so late (s). */
const LEAST_S = 0.004;
const MOST_S = 0.45;
/** The band that is looked at (Hz): what lossy coding leaves out above it says nothing. */
const LOW_HZ = 150;
const HIGH_HZ = 9_000;
const LOW_BIN = round((LOW_HZ / SAMPLE_RATE) * SIZE);
const HIGH_BIN = round((HIGH_HZ / SAMPLE_RATE) * SIZE);
/** Bins are evened out against their neighbours, so many to each side (60 Hz): what is left are ripples. */
const AROUND = 80;
/** A frame below this is silent (mean power; −65 dBFS), and says nothing. */
const SILENT = 10 ** (-65 / 10);
/** A copy stands out by so many spreads of what lies around it, in each half of the frames; and is no quieter than this (dB). */
const LEAST_HEIGHT = 7;
const LEAST_IN_HALF = 4;
const LEAST_DB = -26;
/** The spread is that of so many lags to each side (10 ms). */
const NEAR = round(0.01 * SAMPLE_RATE);
/** What repeats again and again (a note, a rhythm) has a peak at twice its delay, too, of this share of the first; a copy has 0.3 at most. */
const PERIODIC_SHARE = 0.36;
/** The peak at twice the delay lies this near (frames). */
const NEAR_TWICE = 4;
/** At least so many frames are needed in each half. */
const LEAST_FRAMES = 6;

/**
 * Tells whether a track carries its own sound twice (an echo, a source that arrives by two ways): a copy makes ripples in the spectrum, as far apart
 * as it is late, which stay when the logarithms of many spectra are averaged, while all that sounds changes. The transform of that
 * average shows them as a peak at the delay. (The power cepstrum: Bogert, Healy and Tukey, "The quefrency alanysis of time series for
 * echoes", 1963.)
 */
export class DoublingMeter {
  private readonly fft: RealFft;
  private readonly frame = new Float32Array(SIZE);
  private readonly spectrum = new Float32Array(SIZE);
  /** The sums of the logarithms, of even and of odd frames. */
  private readonly sums = [new Float64Array(BINS), new Float64Array(BINS)];
  private readonly counts = [0, 0];
  private filled = 0;
  private frames = 0;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: MakeFft) {
    this.fft = makeFft(SIZE);
  }

  /** Takes the next frames (mono, 48 kHz). */
  add(samples: Float32Array, frames = samples.length): void {
    for (let from = 0; from < frames; ) {
      const count = min(frames - from, SIZE - this.filled);
      this.frame.set(samples.subarray(from, from + count), this.filled);
      this.filled += count;
      from += count;
      if (this.filled === SIZE) this.takeFrame();
    }
  }

  /** The loudest second arrival that stands out; null where there is none, or too little to tell. */
  result(): Doubling | null {
    if (min(...this.counts) < LEAST_FRAMES) return null;
    const halves = this.sums.map((sum, half) =>
      this.ripplesOf(sum.map((value) => value / this.counts[half])),
    );
    const both = halves[0].map((value, lag) => (value + halves[1][lag]) / 2);
    const from = round(LEAST_S * SAMPLE_RATE);
    const to = round(MOST_S * SAMPLE_RATE);
    let best = from;
    for (let lag = from; lag < to; lag++) if (abs(both[lag]) > abs(both[best])) best = lag;
    const stands = (values: Float32Array) =>
      (values[best] * Math.sign(both[best])) / spreadAround(values, best);
    if (stands(both) < LEAST_HEIGHT || halves.some((half) => stands(half) < LEAST_IN_HALF)) return null;
    if (isPeriodic(both, best)) return null;
    const levelDb = 20 * log10(min(1, abs(both[best]) / heldShare(best)));
    return levelDb < LEAST_DB ? null : { delayMs: (1000 * best) / SAMPLE_RATE, levelDb };
  }

  private takeFrame(): void {
    const { frame, spectrum } = this;
    this.filled = 0;
    let power = 0;
    for (let i = 0; i < SIZE; i++) power += frame[i] * frame[i];
    if (power / SIZE < SILENT) return;
    for (let i = 0; i < SIZE; i++) frame[i] *= WINDOW[i];
    this.fft.forward(frame, spectrum);
    const half = this.frames % 2;
    const sum = this.sums[half];
    for (let bin = LOW_BIN; bin < HIGH_BIN; bin++)
      sum[bin] += log(spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2 + 1e-9);
    this.counts[half] += 1;
    this.frames += 1;
  }

  /** The ripples of a mean spectrum by their delay: 1 where both arrivals are equally loud. */
  private ripplesOf(logs: Float64Array): Float32Array {
    const spectrum = new Float32Array(SIZE);
    const whole = new Float64Array(BINS + 1);
    for (let bin = 0; bin < BINS; bin++) whole[bin + 1] = whole[bin] + logs[bin];
    for (let bin = LOW_BIN; bin < HIGH_BIN; bin++) {
      const [from, to] = [max(LOW_BIN, bin - AROUND), min(HIGH_BIN, bin + AROUND + 1)];
      const ripple = logs[bin] - (whole[to] - whole[from]) / (to - from);
      const edge = (PI * (bin - LOW_BIN + 0.5)) / (HIGH_BIN - LOW_BIN);
      spectrum[2 * bin] = (ripple * (1 - cos(2 * edge))) / (HIGH_BIN - LOW_BIN);
    }
    const ripples = new Float32Array(SIZE);
    this.fft.inverse(spectrum, ripples);
    return ripples.map((value) => value / 2);
  }
}

/** How much of the ripples of a copy is seen: it leaves the frame, and bins are evened out against their neighbours. */
function heldShare(lag: number): number {
  const share = lag / SIZE;
  const inFrame = (1 - share) * (2 / 3 + cos(2 * PI * share) / 3) + sin(2 * PI * share) / (2 * PI);
  const bins = 2 * AROUND + 1;
  return inFrame * (1 - sin(bins * PI * share) / (bins * sin(PI * share)));
}

/** Tells whether a peak comes from what repeats again and again. */
function isPeriodic(ripples: Float32Array, lag: number): boolean {
  const twice = 2 * lag;
  if (twice + NEAR_TWICE >= SIZE / 2) return false;
  const again = ripples.subarray(twice - NEAR_TWICE, twice + NEAR_TWICE + 1);
  return max(...again.map((value) => value * Math.sign(ripples[lag]))) > PERIODIC_SHARE * abs(ripples[lag]);
}

/** The spread of what lies around a lag, from the median. */
function spreadAround(values: Float32Array, lag: number): number {
  const near = values.subarray(max(0, lag - NEAR), lag + NEAR + 1);
  return max(1e-9, SPREAD_PER_MAD * median(Array.from(near, abs)));
}
