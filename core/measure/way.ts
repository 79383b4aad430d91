import { SAMPLE_RATE } from '../audio/planes.ts';
import { median } from '../median.ts';
import type { MakeFft, RealFft } from './fft.ts';
import { hann } from './hann.ts';
import { vertexOffset } from './presence/correlate.ts';

const { abs, ceil, cos, floor, log10, max, PI, round, sin } = Math;

/**
 * By which way a sound came into a track: over a connection (as it is, whatever its level), or through the air (from headphones or loudspeakers into
 * a microphone: coloured, and with the room around it); null where that cannot be told.
 */
export type Way = 'connection' | 'air' | null;

const FRAME = 8192;
const HOP = FRAME / 2;
/** Frames overlap by half, so that only so large a share of them counts as independent (Hann window). */
const INDEPENDENT = 0.65;
/** What is said of the lag may be off by this much (frames; 2 ms). */
const MOST_OFF = 96;
/** At least so many frames are needed (1.7 s). */
const LEAST_FRAMES = 20;
/** The bands that are compared: so many from one frequency to another (Hz). Below, microphones are cut off; above, lossy coding leaves out much. */
const LOW_HZ = 300;
const HIGH_HZ = 8000;
const BANDS = 16;
/** Bins in which the reference has less than this share of its mean power say nothing. */
const LEAST_SHARE = 1e-4;
/** A band counts where what arrives in a bin stands above its own uncertainty by this factor, over so many bins; so many bands have to. */
const LEAST_CERTAIN = 1.5;
const LEAST_BINS = 8;
const LEAST_BANDS = 6;
/** To be called a connection, it takes this many: most of the range. */
const MOST_BANDS = 10;
/** Over a connection, bands differ by no more than this (dB) and nearly all of it arrives at once; through the air, one of both is far off. */
const FLAT_DB = 1;
const AT_ONCE = 0.97;
const COLOURED_DB = 3.5;
const SPREAD_OUT = 0.85;

/** So large a share of the bands may be off, to each side. */
const OUTER_SHARE = 0.15;

/** What was measured of a way. */
export interface WayMeasures {
  way: Way;
  /** By how much the bands differ to each side of their middle (dB), but for the outermost. */
  colourDb: number;
  /** The share of what arrives that arrives at one moment, 0 to 1. */
  atOnce: number;
}

/**
 * Measures the way of a sound into a track: the response between them (cross-spectrum over the power of the first; the H1 estimate of Bendat
 * and Piersol, Random Data, 4th ed., section 6.1), less what its uncertainty alone would come to.
 * @param reference, track mono, 48 kHz
 * @param lagAt by how many frames the track is later than the reference, at a frame of the track
 */
export function measureWay(
  makeFft: MakeFft,
  reference: Float32Array,
  track: Float32Array,
  lagAt: (frame: number) => number,
): WayMeasures | null {
  const fft = makeFft(FRAME);
  const [x, y] = [new Float32Array(FRAME), new Float32Array(FRAME)];
  const [xs, ys] = [new Float32Array(FRAME), new Float32Array(FRAME)];
  const window = hann(FRAME);
  const bins = FRAME / 2;
  const [own, whole, crossRe, crossIm] = [0, 1, 2, 3].map(() => new Float64Array(bins));
  let frames = 0;
  try {
    for (let start = 0; start + FRAME <= track.length; start += HOP) {
      const lag = lagAt(start + HOP);
      const shift = round(lag);
      const from = start - shift;
      if (from < 0 || from + FRAME > reference.length) continue;
      for (let i = 0; i < FRAME; i++) {
        x[i] = reference[from + i] * window[i];
        y[i] = track[start + i] * window[i];
      }
      fft.forward(x, xs);
      fft.forward(y, ys);
      for (let bin = 1; bin < bins; bin++) {
        const [xr, xi, yr, yi] = [xs[2 * bin], xs[2 * bin + 1], ys[2 * bin], ys[2 * bin + 1]];
        const turn = (2 * PI * bin * (lag - shift)) / FRAME;
        const [re, im] = [xr * yr + xi * yi, xr * yi - xi * yr];
        own[bin] += xr * xr + xi * xi;
        whole[bin] += yr * yr + yi * yi;
        crossRe[bin] += re * cos(turn) - im * sin(turn);
        crossIm[bin] += re * sin(turn) + im * cos(turn);
      }
      frames += 1;
    }
    if (frames < LEAST_FRAMES) return null;
    align(fft, own, crossRe, crossIm);
    return judged(own, whole, crossRe, crossIm, frames * INDEPENDENT);
  } finally {
    fft.close();
  }
}

/** Turns a cross-spectrum so that its strongest arrival comes at once: files say times to a millisecond only. */
function align(fft: RealFft, own: Float64Array, crossRe: Float64Array, crossIm: Float64Array): void {
  const [spectrum, response] = [new Float32Array(FRAME), new Float32Array(FRAME)];
  const least = LEAST_SHARE * (own.reduce((sum, power) => sum + power, 0) / own.length);
  const [low, high] = [LOW_HZ, HIGH_HZ].map((hz) => round((hz / SAMPLE_RATE) * FRAME));
  for (let bin = low; bin < high; bin++) {
    if (own[bin] < least) continue;
    spectrum[2 * bin] = crossRe[bin] / own[bin];
    spectrum[2 * bin + 1] = crossIm[bin] / own[bin];
  }
  fft.inverse(spectrum, response);
  const at = (lag: number) => response[(lag + FRAME) % FRAME];
  const near = Float32Array.from({ length: 2 * MOST_OFF + 1 }, (_, i) => at(i - MOST_OFF));
  let best = MOST_OFF;
  for (let i = 0; i < near.length; i++) if (abs(near[i]) > abs(near[best])) best = i;
  const lag = best - MOST_OFF + vertexOffset(near, best);
  for (let bin = 0; bin < own.length; bin++) {
    const turn = (2 * PI * bin * lag) / FRAME;
    const [re, im] = [crossRe[bin], crossIm[bin]];
    crossRe[bin] = re * cos(turn) - im * sin(turn);
    crossIm[bin] = re * sin(turn) + im * cos(turn);
  }
}

function judged(
  own: Float64Array,
  whole: Float64Array,
  crossRe: Float64Array,
  crossIm: Float64Array,
  independent: number,
): WayMeasures | null {
  const mean = own.reduce((sum, power) => sum + power, 0) / own.length;
  const gains: number[] = [];
  /** What no more than can arrive in bands where nothing is certain (dB). */
  const most: number[] = [];
  const shares: number[] = [];
  for (let band = 0; band < BANDS; band++) {
    const edge = (at: number) => ((LOW_HZ * (HIGH_HZ / LOW_HZ) ** (at / BANDS)) / SAMPLE_RATE) * FRAME;
    let [re, im, power, doubt, count] = [0, 0, 0, 0, 0];
    for (let bin = ceil(edge(band)); bin <= floor(edge(band + 1)); bin++) {
      if (own[bin] < LEAST_SHARE * mean) continue;
      const [hr, hi] = [crossRe[bin] / own[bin], crossIm[bin] / own[bin]];
      const rest = max(0, whole[bin] - (hr * hr + hi * hi) * own[bin]);
      re += hr;
      im += hi;
      power += hr * hr + hi * hi;
      doubt += rest / (own[bin] * max(1, independent - 1));
      count += 1;
    }
    if (count < LEAST_BINS) continue;
    const arrives = (power - doubt) / count;
    const certain = (LEAST_CERTAIN * doubt) / count;
    if (arrives < certain) {
      most.push(10 * log10(max(0, arrives) + certain));
      continue;
    }
    gains.push(10 * log10(arrives));
    shares.push(max(0, (re * re + im * im - doubt) / (count * count) / arrives));
  }
  if (gains.length < LEAST_BANDS) return null;
  // A band in which less can arrive than in the others is coloured by that much at least.
  const loudest = median(gains);
  gains.push(...most.filter((gain) => gain < loudest));
  // Without the highest and the lowest: single bands are off where something else sounds like it by chance.
  const sorted = [...gains].sort((a, b) => a - b);
  const outer = round(OUTER_SHARE * sorted.length);
  const colourDb = (sorted[sorted.length - 1 - outer] - sorted[outer]) / 2;
  const atOnce = Math.min(1, median(shares));
  return { way: wayOf(colourDb, atOnce, shares.length), colourDb, atOnce };
}

function wayOf(colourDb: number, atOnce: number, bands: number): Way {
  if (colourDb <= FLAT_DB && atOnce >= AT_ONCE && bands >= MOST_BANDS) return 'connection';
  return colourDb >= COLOURED_DB || atOnce <= SPREAD_OUT ? 'air' : null;
}
