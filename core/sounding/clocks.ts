import type { MakeFft, RealFft } from '../measure/fft.ts';
import { median } from '../median.ts';
import { type LinePoint, medianLine } from '../medianLine.ts';
import { Retimer } from '../signal/retime.ts';
import { type Code, LOW_BIN, PERIOD, type PeriodSpectra, READ_RATE, type Spectrum } from './spectra.ts';

const { abs, floor, max, sqrt } = Math;

/** Clocks are compared at a third of the rate that is read: there a code holds together though its clock runs apart. */
const COARSE = 3;
const COARSE_PERIOD = PERIOD / COARSE;
/** Up to here (2.5 kHz). */
const COARSE_BIN = floor((2500 / READ_RATE) * PERIOD);
/** A period counts where its code stands out by this much of the mean, … */
const LEAST_HEIGHT = 6;
/** … and a clock is known from so many of them, … */
const LEAST_PERIODS = 4;
/** … that lie this near to one line (frames that are read). */
const LEAST_NEAR = 2;
/** No two clocks of working devices are further apart than this (500 ppm). */
const MOST_APART = 500e-6;
/** Clocks nearer than this are one. */
const SAME_CLOCK = 0.2e-6;

/** The sources of a recording that share a clock. */
export interface ClockGroup {
  /** By how much more a source is late with each second (s a second): above 0 where its clock runs slow. */
  drift: number;
  sources: Set<number>;
}

/** How a code was seen to move from period to period on one channel. */
interface Sight {
  samples: Float32Array;
  code: Code;
  drift: number;
  height: number;
}

/**
 * Finds which sources of a recording run by another clock than its recorder: their codes come later, or earlier, from period to period. Each
 * period is correlated with the code below 2.5 kHz; the line through where it stands out gives the drift, which a fit of each period
 * over the whole band then makes exact, once the drift is taken out.
 */
export class ClockReader {
  private readonly spectra: PeriodSpectra;
  private readonly fft: RealFft;
  private readonly low = new Float32Array(COARSE_PERIOD + 2);
  private readonly lags = new Float32Array(COARSE_PERIOD);

  constructor(makeFft: MakeFft, spectra: PeriodSpectra) {
    this.spectra = spectra;
    this.fft = makeFft(COARSE_PERIOD);
  }

  /**
   * Returns the sources by their clocks, those of the recorder's own clock and those of which nothing is known among the first.
   * @param channels at the rate that is read
   * @param codes of all sources
   */
  groups(channels: Float32Array[], codes: Code[]): ClockGroup[] {
    const sources = [...new Set(codes.map(({ source }) => source))];
    const best = new Map<number, Sight>();
    for (const samples of channels) {
      const periods = this.periodsOf(samples);
      for (const code of codes) {
        const sight = this.sightOf(samples, periods, code);
        if (sight && sight.height > (best.get(code.source)?.height ?? 0)) best.set(code.source, sight);
      }
    }
    const groups: ClockGroup[] = [{ drift: 0, sources: new Set(sources) }];
    for (const [source, sight] of best) {
      const drift = this.exact(sight);
      const known = groups.find((one) => abs(one.drift - drift) < SAME_CLOCK);
      if (known === groups[0]) continue;
      groups[0].sources.delete(source);
      if (known) known.sources.add(source);
      else groups.push({ drift, sources: new Set([source]) });
    }
    return groups.filter((one) => one.sources.size > 0);
  }

  /** The spectra of all whole periods. */
  private periodsOf(samples: Float32Array): { sound: Spectrum; weights: Float32Array }[] {
    return Array.from({ length: floor(samples.length / PERIOD) }, (_, i) => {
      const sound = this.spectra.spectrumOf(samples.subarray(i * PERIOD, (i + 1) * PERIOD));
      return { sound, weights: this.spectra.weightsFor(sound) };
    });
  }

  private sightOf(
    samples: Float32Array,
    periods: { sound: Spectrum; weights: Float32Array }[],
    code: Code,
  ): Sight | null {
    const heights: number[] = [];
    const points: LinePoint[] = [];
    periods.forEach(({ sound, weights }, i) => {
      const { lag, height } = this.peakOf(sound, weights, code);
      if (height < LEAST_HEIGHT) return;
      heights.push(height);
      points.push({ at: i * PERIOD, value: lag });
    });
    const line = lineThrough(points);
    return line === null
      ? null
      : { samples, code, drift: line, height: median(heights) * sqrt(points.length) };
  }

  /** Where a code stands out most in a period (frames that are read), and by how many times the mean. */
  private peakOf(
    sound: Spectrum,
    weights: Float32Array,
    { spectrum }: Code,
  ): { lag: number; height: number } {
    const { low, lags } = this;
    low.fill(0);
    for (let bin = LOW_BIN; bin < COARSE_BIN; bin++) {
      const [xr, xi] = [sound[2 * bin], sound[2 * bin + 1]];
      const [cr, ci] = [spectrum[2 * bin], spectrum[2 * bin + 1]];
      low[2 * bin] = (xr * cr + xi * ci) * weights[bin];
      low[2 * bin + 1] = (xi * cr - xr * ci) * weights[bin];
    }
    this.fft.inverse(low, lags);
    let at = 0;
    let power = 0;
    for (let i = 0; i < COARSE_PERIOD; i++) {
      power += lags[i] * lags[i];
      if (abs(lags[i]) > abs(lags[at])) at = i;
    }
    const [before, here, after] = [-1, 0, 1].map((by) =>
      abs(lags[(at + by + COARSE_PERIOD) % COARSE_PERIOD]),
    );
    const bend = before - 2 * here + after;
    const within = bend === 0 ? 0 : (before - after) / (2 * bend);
    return { lag: COARSE * (at + within), height: here / sqrt(max(1e-30, power / COARSE_PERIOD)) };
  }

  /** The drift of a code, from fits of each period over the whole band. */
  private exact({ samples, code, drift }: Sight): number {
    const steady = abs(drift) < SAME_CLOCK ? samples : retimed(samples, 0, drift);
    const periods = this.periodsOf(steady);
    const points = periods.flatMap(({ sound, weights }, i): LinePoint[] => {
      const { lag, height } = this.peakOf(sound, weights, code);
      if (height < LEAST_HEIGHT) return [];
      return [{ at: i * PERIOD, value: this.spectra.fit(sound, code, weights, lag).lag }];
    });
    return drift + (lineThrough(points) ?? 0);
  }
}

/** How fast lags move from period to period; null where they lie on no line. */
function lineThrough(points: LinePoint[]): number | null {
  if (points.length < LEAST_PERIODS) return null;
  const first = points[floor(points.length / 2)].value;
  const near = points.map(({ at, value }) => ({ at, value: nearest(value - first) }));
  const { slope, atZero } = medianLine(near);
  const off = near.map(({ at, value }) => abs(value - slope * at - atZero));
  const on = off.filter((one) => one < LEAST_NEAR).length;
  return on >= LEAST_PERIODS && on > points.length / 2 && abs(slope) <= MOST_APART ? slope : null;
}

function nearest(lag: number): number {
  const within = ((lag % PERIOD) + PERIOD) % PERIOD;
  return within > PERIOD / 2 ? within - PERIOD : within;
}

/** Returns a channel as it would be by another clock, from one that it has been brought to already. */
export function retimed(samples: Float32Array, from: number, to: number): Float32Array {
  if (from === to) return samples.slice();
  const retimer = new Retimer(1, 0, (1 - from) / (1 - to));
  const [made] = retimer.push([samples], samples.length);
  const out = new Float32Array(samples.length);
  out.set(made);
  out.set(retimer.flush(samples.length, samples.length)[0], made.length);
  return out;
}
