import type { MakeFft, RealFft } from '../measure/fft.ts';
import { SPREAD_PER_MAD } from '../measure/presence/correlate.ts';
import { median } from '../median.ts';
import { type LinePoint, medianLine } from '../medianLine.ts';
import {
  areNear,
  type ByClock,
  type ByOther,
  type ClockGroup,
  isLouder,
  type PlayedOn,
  retimed,
  SURE_CLEARNESS,
} from './byClock.ts';
import { around, PERIOD, READ_RATE } from './periods.ts';
import { type Code, evenBin, OVER_DECOYS, type PeriodSound, type PeriodSpectra } from './spectra.ts';

const { abs, floor, max, sqrt } = Math;

/** Drift is looked for at a sixth of the reading rate: low frequencies stay coherent although the clock drifts within a period. */
const COARSE = 6;
const COARSE_PERIOD = PERIOD / COARSE;
/** The bin of 1.25 kHz, up to which periods are compared. */
const COARSE_BIN = evenBin((1250 / READ_RATE) * PERIOD);
/** A period counts if the peak of its code is this many times the RMS of the correlation at least, … */
const LEAST_HEIGHT = 6;
/** … and it has this share of the highest one. */
const CLEAR_SHARE = 0.25;
/** A clock is known from at least this many periods, … */
const LEAST_PERIODS = 4;
/** … each no further than this from one line (frames at the reading rate). */
const LEAST_NEAR = 2;
/** Working devices are not further apart than this (500 ppm). */
const MOST_APART = 500e-6;
/** Clocks nearer than this (0.7 ppm) count as one, which costs a code 0.1 dB, … */
const SAME_CLOCK = 0.7e-6;
/** By their low frequencies alone, clocks are told apart from here on (3 ppm). */
const ROUGHLY_SAME_CLOCK = 3e-6;
/** … and so do those that are not this many standard errors apart. */
const SURE_ERRORS = 5;
/** The drift of a code on one channel, and how clearly the code stood out there. */
interface Sight {
  samples: Float32Array;
  code: Code;
  drift: number;
  height: number;
  /** How many times as high as it had to be. */
  clearness: number;
  /** As a factor. */
  gain: number;
}

/** The highest peak of a code in a period. */
interface Peak {
  /** Where the period begins. */
  at: number;
  /** How many times as high as it has to be. */
  clearness: number;
  period: PeriodSound;
  /** In frames at the reading rate. */
  lag: number;
  /** Over the RMS of the correlation. */
  height: number;
  /** As a factor. */
  gain: number;
}

/**
 * Finds the sources of a recording that run on another clock than the recorder: their codes come a little later, or earlier, with each
 * period. The peaks of each period below 1.25 kHz lie on a line, whose slope is the drift. Once that drift is taken out, a fit over the
 * whole band makes it exact.
 */
export class ClockReader {
  private readonly spectra: PeriodSpectra;
  private readonly decoys: Code[];
  private readonly byClock: ByClock;
  private readonly fft: RealFft;
  /** Both in the memory of the loops. */
  private readonly low: Float32Array;
  private readonly lags: Float32Array;
  /** How loud the code of a source is on a channel: look up "channel source". */
  private readonly seen = new Map<string, number>();
  /** What was seen of each code on each channel when clocks were read last. */
  private sights: (Sight & PlayedOn)[] = [];

  /** @param decoys codes that nobody plays */
  constructor(makeFft: MakeFft, spectra: PeriodSpectra, byClock: ByClock, decoys: Code[]) {
    this.spectra = spectra;
    this.decoys = decoys;
    this.byClock = byClock;
    this.fft = makeFft(COARSE_PERIOD);
    this.low = spectra.newPeriod().subarray(0, COARSE_PERIOD);
    this.lags = spectra.newPeriod().subarray(0, COARSE_PERIOD);
  }

  /**
   * Reads the clocks of some sources, and moves each to the group of its clock, or to a new one; where a clock cannot be read, the source
   * stays where it is.
   * @param channels at the reading rate
   * @param codes of these sources
   * @param groups all sources by what is known of their clocks; changed
   * @returns the sources whose clock was read, and those of them that were moved
   */
  assign(
    channels: Float32Array[],
    codes: Code[],
    groups: ClockGroup[],
  ): { read: Set<number>; moved: Set<number> } {
    const best = new Map<number, Sight>();
    this.see(channels, () => codes);
    for (const sight of this.sights)
      if (sight.height > (best.get(sight.player)?.height ?? 0)) best.set(sight.player, sight);
    const read = new Set<number>();
    const moved = new Set<number>();
    // The clearest code of a clock stands for it.
    for (const [source, sight] of surest([...best])) {
      const line = this.exact(sight);
      if (!line) continue;
      read.add(source);
      const group = this.groupOf(sight, line, groups);
      if (group.sources.has(source)) continue;
      for (const { sources } of groups) sources.delete(source);
      group.sources.add(source);
      moved.add(source);
    }
    return { read, moved };
  }

  /** Looks at each channel for some codes in each of its periods. */
  private see(channels: Float32Array[], codesOn: (channel: number) => Code[]): void {
    this.sights = channels.flatMap((samples, channel) => {
      const periods = this.periodsOf(samples);
      const least = this.leastOn(periods);
      return codesOn(channel).flatMap((code) => {
        const sight = this.sightOf(samples, periods, code, least);
        if (!sight) return [];
        this.noteSeen(channel, code.source, sight.gain);
        return [{ ...sight, channel, player: code.source }];
      });
    });
  }

  /** The known clock that a line shows; where there is none, a new one, which is added. */
  private groupOf(sight: Sight, { slope: drift, error }: Line, groups: ClockGroup[]): ClockGroup {
    const [nearest] = [...groups].sort((a, b) => abs(a.drift - drift) - abs(b.drift - drift));
    if (abs(nearest.drift - drift) < max(SAME_CLOCK, SURE_ERRORS * error)) return nearest;
    const known = this.knownThatServes(sight, drift, groups);
    if (known) return known;
    const group = { drift, sources: new Set<number>() };
    groups.push(group);
    return group;
  }

  /** The same as {@link elsewhere}, of what is left of channels. @param codesOn those that are looked for on the channel at each place */
  elsewhereIn(left: Float32Array[], codesOn: (channel: number) => Code[], groups: ClockGroup[]): ByOther[] {
    this.see(left, codesOn);
    return this.elsewhere(groups);
  }

  /**
   * Tells on which channels sources run clearly by another clock than by the one that was read of them: there they came another way. Of what was
   * seen when clocks were read last.
   * @param groups more are added where clocks are new
   */
  elsewhere(groups: ClockGroup[]): ByOther[] {
    const found = new Map<string, ByOther & { height: number }>();
    for (const sight of this.sights) {
      const { channel, player, clearness, height, gain, drift } = sight;
      const own = groups.find(({ sources }) => sources.has(player));
      if (!own || clearness < SURE_CLEARNESS || abs(drift - own.drift) < ROUGHLY_SAME_CLOCK) continue;
      const key = `${channel} ${player}`;
      if (height <= (found.get(key)?.height ?? 0)) continue;
      const line = this.exact(sight);
      if (
        !line ||
        !isLouder(this.byClock.peakBy(sight, line.slope), this.byClock.peakBy(sight, own.drift).gain)
      )
        continue;
      const clock = this.groupOf(sight, line, groups);
      if (!areNear(clock, own)) found.set(key, { channel, player, clock, gain, height });
    }
    return [...found.values()];
  }

  /** Keeps how loud a source seems to be on a channel: see {@link loudestOn}. */
  noteSeen(channel: number, source: number, gain: number): void {
    const key = `${channel} ${source}`;
    this.seen.set(key, max(gain, this.seen.get(key) ?? 0));
  }

  /** How loud the sources of a clock are on a channel, as far as their codes stood out there (as a factor); 0 where none did. */
  loudestOn(channel: number, { sources }: ClockGroup): number {
    return max(0, ...[...sources].map((source) => this.seen.get(`${channel} ${source}`) ?? 0));
  }

  /**
   * Moves sources whose own clock could not be read to the known clock by which their codes are loudest in the mean of all periods, if they are
   * clearly louder by that one than by the clock that they have.
   * @param channels at the reading rate
   * @param codes of these sources
   * @returns the sources that were moved
   */
  assignKnown(channels: Float32Array[], codes: Code[], groups: ClockGroup[]): Set<number> {
    const clearest = new Map<number, { height: number; to: ClockGroup }>();
    for (const samples of channels) {
      const byGroup = this.byClock.meansBy(samples, groups);
      for (const code of codes) {
        const peaks = this.byClock.peaksOf(code, byGroup);
        const now = peaks.find(({ group }) => group.sources.has(code.source));
        const [best] = peaks;
        if (!now || !best || best.group === now.group || best.height < best.least) continue;
        if (!isLouder(best, now.gain) || best.height <= (clearest.get(code.source)?.height ?? 0)) continue;
        clearest.set(code.source, { height: best.height, to: best.group });
      }
    }
    for (const [source, { to }] of clearest) {
      for (const { sources } of groups) sources.delete(source);
      to.sources.add(source);
    }
    return new Set(clearest.keys());
  }

  /** The known clock by which a code is about as loud as by the one that was read; null where there is none. */
  private knownThatServes(sight: Sight, drift: number, groups: ClockGroup[]): ClockGroup | null {
    const own = this.byClock.peakBy(sight, drift);
    const served = groups.map((group) => ({ group, gain: this.byClock.peakBy(sight, group.drift).gain }));
    const [best] = served.sort((a, b) => b.gain - a.gain);
    return isLouder(own, best.gain) ? null : best.group;
  }

  private periodsOf(samples: Float32Array): PeriodSound[] {
    return Array.from({ length: floor(samples.length / PERIOD) }, (_, i) =>
      this.spectra.soundOf(samples.subarray(i * PERIOD, (i + 1) * PERIOD)),
    );
  }

  /**
   * How high a peak must be in each period of a channel: a quarter above those that side lobes make of codes that nobody plays. What is left
   * where a loud sound begins or ends makes them high in one period alone.
   */
  private leastOn(periods: PeriodSound[]): number[] {
    return periods.map((period) => {
      const heights = this.decoys.map((decoy) => this.coarsePeak(period, decoy).height);
      return max(LEAST_HEIGHT, OVER_DECOYS * max(0, ...heights));
    });
  }

  private sightOf(samples: Float32Array, periods: PeriodSound[], code: Code, least: number[]): Sight | null {
    const peaks = this.clearPeaks(periods, code, least);
    const line = lineThrough(peaks.map(({ at, lag }) => ({ at, value: lag })));
    const height = median(peaks.map((one) => one.height)) * sqrt(peaks.length);
    const clearness = median(peaks.map((one) => one.clearness));
    const gain = median(peaks.map((one) => one.gain));
    return line && { samples, code, drift: line.slope, height, clearness, gain };
  }

  /** The highest peak of a code in each period in which it is about as clear as in the clearest. In the others the code does not sound. */
  private clearPeaks(periods: PeriodSound[], code: Code, least: number[]): Peak[] {
    const peaks = periods.flatMap((period, i) => {
      const peak = this.coarsePeak(period, code);
      const clearness = peak.height / least[i];
      return clearness >= 1 ? [{ at: i * PERIOD, period, clearness, ...peak }] : [];
    });
    const clear = CLEAR_SHARE * max(0, ...peaks.map(({ height }) => height));
    return peaks.filter(({ height }) => height >= clear);
  }

  /** The highest peak of a code in a period. */
  private coarsePeak(period: PeriodSound, code: Code): Omit<Peak, 'at' | 'period' | 'clearness'> {
    const { spectra, low, lags } = this;
    spectra.cross(period, code, COARSE_BIN, low);
    this.fft.inverse(low, lags);
    const at = spectra.highest(lags);
    const power = spectra.loops.dot(lags.byteOffset, lags.byteOffset, lags.length);
    const [before, here, after] = [-1, 0, 1].map((by) =>
      abs(lags[(at + by + COARSE_PERIOD) % COARSE_PERIOD]),
    );
    const bend = before - 2 * here + after;
    const within = bend === 0 ? 0 : (before - after) / (2 * bend);
    return {
      lag: COARSE * (at + within),
      height: here / sqrt(max(1e-30, power / COARSE_PERIOD)),
      gain: here,
    };
  }

  /** The drift of a code, from fits of each period over the whole band; null where these do not lie on a line. */
  private exact({ samples, code, drift }: Sight): Line | null {
    const steady = abs(drift) < SAME_CLOCK ? samples : retimed(samples, 0, drift);
    const periods = this.periodsOf(steady);
    const least = periods.map(() => LEAST_HEIGHT);
    const line = lineThrough(
      this.clearPeaks(periods, code, least).map(({ at, period, lag }) => ({
        at,
        value: this.spectra.fit(period, code, lag).lag,
      })),
    );
    return line && { ...line, slope: drift + line.slope };
  }
}

/**
 * The sights to go by, the clearest first: those that are beyond doubt. Side lobes of louder codes lie on a line as well, so the others wait until
 * those codes are taken out; they count where nothing else is left.
 */
function surest(sights: [source: number, Sight][]): [source: number, Sight][] {
  const sure = sights.filter(([, { clearness }]) => clearness >= SURE_CLEARNESS);
  return (sure.length > 0 ? sure : sights).sort(([, a], [, b]) => b.height - a.height);
}

/** The line through lags: its slope, and the standard error of that. */
interface Line {
  slope: number;
  error: number;
}

/** Returns the line through lags, one a period; null where they do not lie on one. */
function lineThrough(points: LinePoint[]): Line | null {
  if (points.length < LEAST_PERIODS) return null;
  const first = points[floor(points.length / 2)].value;
  const near = points.map(({ at, value }) => ({ at, value: around(value - first) }));
  const { slope, atZero } = medianLine(near);
  const off = near.map(({ at, value }) => abs(value - slope * at - atZero));
  const on = off.filter((one) => one < LEAST_NEAR).length;
  if (on < LEAST_PERIODS || on <= points.length / 2 || abs(slope) > MOST_APART) return null;
  // Of least squares over so many points at even distances.
  const error = (SPREAD_PER_MAD * median(off) * sqrt(12)) / (points.length ** 1.5 * PERIOD);
  return { slope, error };
}
