import quickselect from 'quickselect';
import type { Kernels } from '../../kernels/kernels.ts';
import type { RealFft } from '../fft.ts';
import { KEPT_EVERY, lagTaps, lagWeight, TAPS_ASIDE } from './lagWindow.ts';
import { FLAT_RATE, LOW_HZ, MAX_LAG, TRANSFORM_FRAMES } from './windows.ts';

const { abs, cos, floor, max, sqrt } = Math;

const LOW_BIN = binOf(LOW_HZ);

/**
 * Mains hum is in all that is recorded in one place, and tells nothing of where a sound comes from: what lies this near to the harmonics of
 * 50 and 60 Hz (Hz), up to a few kilohertz, is left out. Flattening spreads hum by as much.
 */
const HUM_HZ = [50, 60];
const HUM_WIDTH_HZ = 4;
const HUM_UP_TO_HZ = 2_000;
/** From which bin to which, each. */
const HUM_BINS = HUM_HZ.flatMap((mains) =>
  Array.from({ length: floor(HUM_UP_TO_HZ / mains) }, (_, harmonic) => {
    const hz = mains * (harmonic + 1);
    return [binOf(hz - HUM_WIDTH_HZ), binOf(hz + HUM_WIDTH_HZ)];
  }),
);

function binOf(hz: number): number {
  return Math.ceil((hz / FLAT_RATE) * TRANSFORM_FRAMES);
}
/** A Gaussian spread is this many median absolute deviations (1 / 0.6745). */
export const SPREAD_PER_MAD = 1.4826;

/**
 * Bins below this share of the mean magnitude of the band are held down: in a track what is leakage, in a reference
 * all but its prominent bins, so that a sound of few tones is not looked for among its own noise.
 */
export const TRACK_SHARE = 0.3;
export const REFERENCE_SHARE = 3;
/** The mean magnitude is about 11 in a flattened window that is full of sound; one with next to none stays below. */
const MIN_FLOOR = 0.3;
/** The ends of a window fade over 20 ms, since a hard edge at the same place in two sounds would correlate. */
const FADE_FRAMES = FLAT_RATE / 50;
const FADE = Float64Array.from(
  { length: FADE_FRAMES },
  (_, i) => 0.5 - 0.5 * cos((Math.PI * (i + 0.5)) / FADE_FRAMES),
);

const KEPT_FRAMES = TRANSFORM_FRAMES / KEPT_EVERY;
/** The loop that smooths the spectrum needs so much room (floats). */
const ROOM_FLOATS = 3_100;

/** How many lags a correlation holds: −{@link MAX_LAG} to +{@link MAX_LAG}. */
export const LAGS = 2 * MAX_LAG + 1;

/**
 * Generalised cross-correlation with phase transform over the band 80 Hz to 16 kHz (Knapp and Carter, 1976),
 * between a reference and a track that were padded with zeros to the transform's length.
 */
export class Correlator {
  private readonly fft: RealFft;
  private readonly short: RealFft;
  private readonly padded = new Float32Array(TRANSFORM_FRAMES);
  private readonly result = new Float32Array(KEPT_FRAMES);
  private readonly loops: Kernels['loops'];
  private readonly room: Float32Array;
  private readonly kept: Float32Array;
  private readonly taps: Float32Array;
  /** What undoes the weights of the lags. */
  private readonly gains: Float32Array;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft, kernels: Kernels) {
    this.fft = makeFft(TRANSFORM_FRAMES);
    this.short = makeFft(KEPT_FRAMES);
    this.loops = kernels.loops;
    this.room = kernels.floats(ROOM_FLOATS);
    this.kept = kernels.floats(KEPT_FRAMES);
    this.gains = kernels.floats(LAGS);
    this.gains.forEach((_, i) => {
      this.gains[i] = 1 / lagWeight(i - MAX_LAG);
    });
    this.taps = kernels.floats(4 * (TAPS_ASIDE + 1));
    lagTaps().forEach((tap, i) => {
      this.taps.fill(tap, 2 * i, 2 * i + 2);
    });
  }

  /**
   * Returns the spectrum of a flattened window with every bin of the band brought to magnitude 1, and 0 outside of
   * it. Bins far below the mean hold leakage, not sound, and stay small.
   * @param spectrum overwritten; as long as the transform, in the kernels' memory
   * @param share {@link TRACK_SHARE} or {@link REFERENCE_SHARE}
   */
  phases(samples: Float32Array, spectrum: Float32Array, share: number): void {
    this.padded.fill(0, samples.length);
    this.padded.set(samples);
    for (let i = 0; i < FADE_FRAMES; i++) {
      this.padded[i] *= FADE[i];
      this.padded[samples.length - 1 - i] *= FADE[i];
    }
    this.fft.forward(this.padded, spectrum);
    spectrum.fill(0, 0, 2 * LOW_BIN);
    for (const [from, to] of HUM_BINS) spectrum.fill(0, 2 * from, 2 * to);
    const floor = max(share * meanMagnitude(spectrum), MIN_FLOOR);
    this.loops.toPhases(spectrum.byteOffset, TRANSFORM_FRAMES, floor);
  }

  /**
   * Correlates two windows given by their phases. `lags[MAX_LAG + n]` is the correlation where the track lags the
   * reference by n frames, in units of the correlation's own robust spread. All three in the kernels' memory.
   */
  correlate(reference: Float32Array, track: Float32Array, lags: Float32Array): void {
    const { loops, room, kept, taps, result, gains } = this;
    loops.crossEveryThird(
      reference.byteOffset,
      track.byteOffset,
      TRANSFORM_FRAMES / 2,
      taps.byteOffset,
      kept.byteOffset,
      room.byteOffset,
    );
    this.short.inverse(kept, result);
    lags.set(result.subarray(KEPT_FRAMES - MAX_LAG), 0);
    lags.set(result.subarray(0, MAX_LAG + 1), MAX_LAG);
    loops.multiply(lags.byteOffset, gains.byteOffset, lags.byteOffset, LAGS);
    const spread = robustSpread(lags);
    if (spread > 0) loops.scale(lags.byteOffset, 1 / spread, LAGS);
  }
}

/** A peak of a correlation: its lag in frames at 32 kHz (with a fraction), its height in spreads, and its polarity. */
export interface Peak {
  lag: number;
  height: number;
  polarity: 1 | -1;
}

/** Returns the highest peak, of either polarity, among the lags from `from` to `to` (frames, inclusive). */
export function highestPeak(lags: Float32Array, from = -MAX_LAG, to = MAX_LAG): Peak {
  let best = from + MAX_LAG;
  let most = abs(lags[best]);
  for (let i = best + 1; i <= to + MAX_LAG; i++) {
    const height = abs(lags[i]);
    if (height <= most) continue;
    most = height;
    best = i;
  }
  return peakAt(lags, best);
}

/** Returns the highest peak among all lags, which lie in the kernels' memory. */
export function peakOf({ placeOfHighest }: Kernels['loops'], lags: Float32Array): Peak {
  return peakAt(lags, placeOfHighest(lags.byteOffset, LAGS));
}

function peakAt(lags: Float32Array, best: number): Peak {
  const polarity = lags[best] < 0 ? -1 : 1;
  return { lag: best - MAX_LAG + vertexOffset(lags, best), height: abs(lags[best]), polarity };
}

/** Returns the spread of values around zero, from the median absolute deviation over an even sample of them. */
export function robustSpread(values: Float32Array): number {
  const step = max(1, floor(values.length / 2001));
  const sample = new Array<number>(floor(values.length / step));
  for (let i = 0; i < sample.length; i++) sample[i] = abs(values[i * step]);
  const middle = floor(sample.length / 2);
  quickselect(sample, middle);
  return sample[middle] * SPREAD_PER_MAD;
}

/** The fraction of a frame by which a parabola through three points has its vertex off the middle one. */
export function vertexOffset(lags: Float32Array, index: number): number {
  if (index === 0 || index === lags.length - 1) return 0;
  const [before, at, after] = [lags[index - 1], lags[index], lags[index + 1]];
  const bend = before - 2 * at + after;
  const offset = bend === 0 ? 0 : (before - after) / (2 * bend);
  return abs(offset) <= 0.5 ? offset : 0;
}

/** The mean magnitude of the band, from every seventh bin. */
function meanMagnitude(spectrum: Float32Array): number {
  let sum = 0;
  let count = 0;
  for (let i = 2 * LOW_BIN; i < TRANSFORM_FRAMES; i += 14) {
    sum += sqrt(spectrum[i] * spectrum[i] + spectrum[i + 1] * spectrum[i + 1]);
    count += 1;
  }
  return sum / count;
}
