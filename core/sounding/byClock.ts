import { Retimer, WITHOUT_TOP } from '../signal/retime.ts';
import type { Code, PeriodSound, PeriodSpectra } from './spectra.ts';

const { abs, max } = Math;

/**
 * By its own clock a code is this many spreads louder than by any other, and by this share. If it is not, its peaks may be side lobes of a louder
 * code, which drift as that one does.
 */
const LOUDER_BY_SPREADS = 4;
const LOUDER_BY_SHARE = 0.04;

/** What is this many times as high as it has to be is beyond doubt. */
export const SURE_CLEARNESS = 1.25;
/** A sound that comes by two clocks is told from one of which the clock is not quite known where those are this far apart (2.5 ppm). */
const TWO_CLOCKS = 2.5e-6;

/** The sources of a recording that share a clock. */
export interface ClockGroup {
  /** How much later a source gets with each second (seconds a second); above 0 where its clock runs slow. */
  drift: number;
  sources: Set<number>;
}

/** One player (see `Players`) on one channel. */
export interface PlayedOn {
  channel: number;
  player: number;
}

/** A source that runs by another clock on a channel, and how loud it seems to be there (as a factor). */
export interface ByOther extends PlayedOn {
  clock: ClockGroup;
  gain: number;
}

/** The mean of all periods of a channel by a clock. */
interface MeanByClock {
  group: ClockGroup;
  mean: PeriodSound;
  /** How many spreads high a code must be in it. */
  least: number;
}

/** How loud codes are in the mean of all periods of a channel, by one clock or another. */
export class ByClock {
  private readonly spectra: PeriodSpectra;
  private readonly decoys: Code[];

  /** @param decoys codes that nobody plays */
  constructor(spectra: PeriodSpectra, decoys: Code[]) {
    this.spectra = spectra;
    this.decoys = decoys;
  }

  /** The means of all periods of a channel, by each clock, with how many spreads high a code must be there. */
  meansBy(samples: Float32Array, groups: ClockGroup[]): MeanByClock[] {
    return groups.flatMap((group) => {
      const mean = this.meanBy(samples, group.drift);
      return mean ? [{ group, mean, least: this.spectra.leastHeightIn(mean, this.decoys) }] : [];
    });
  }

  /** How loud a code is by each clock, the loudest first. */
  peaksOf(code: Code, means: MeanByClock[]) {
    return means
      .map((one) => ({ ...one, ...this.spectra.peakIn(one.mean, code) }))
      .sort((one, other) => other.gain - one.gain);
  }

  /** How loud a code is on a channel by a clock (as a gain), and how many spreads of the other lags that is. */
  peakBy({ samples, code }: { samples: Float32Array; code: Code }, by: number) {
    const mean = this.meanBy(samples, by);
    return mean ? this.spectra.peakIn(mean, code) : { gain: 0, height: 0 };
  }

  /**
   * Tells which sources stand out by another known clock in what is left of channels, where they are not looked for by that yet.
   * @param left of each channel, with all taken out that was read
   * @param codes of the channel at each place
   */
  leftByOthers(left: Float32Array[], codes: (channel: number) => Code[], groups: ClockGroup[]): ByOther[] {
    const found = new Map<string, ByOther>();
    for (const [channel, samples] of left.entries()) {
      const byGroup = this.meansBy(samples, groups);
      for (const code of codes(channel)) {
        const peaks = this.peaksOf(code, byGroup);
        const now = peaks.find(({ group }) => group.sources.has(code.source));
        const [best] = peaks;
        if (!now || best.height < SURE_CLEARNESS * best.least || !isLouder(best, now.gain)) continue;
        if (areNear(best.group, now.group)) continue;
        const key = `${channel} ${code.source}`;
        if (best.gain <= (found.get(key)?.gain ?? 0)) continue;
        found.set(key, { channel, player: code.source, clock: best.group, gain: best.gain });
      }
    }
    return [...found.values()];
  }

  /** Tells whether a code of a source is clearly louder on a channel by one clock than by another. */
  isLouderBy(samples: Float32Array, codes: Code[], one: ClockGroup, other: ClockGroup): boolean {
    const [byOne, byOther] = [one, other].map(({ drift }) => {
      const peaks = codes.map((code) => this.peakBy({ samples, code }, drift));
      return peaks.reduce((best, peak) => (peak.gain > best.gain ? peak : best));
    });
    return isLouder(byOne, byOther.gain);
  }

  /** The mean of all periods of a channel, by a clock; null where there is none. */
  private meanBy(samples: Float32Array, drift: number): PeriodSound | null {
    return this.spectra.meanOf(this.spectra.hold(drift === 0 ? samples : retimed(samples, 0, drift)));
  }
}

/** Tells whether one sound would not be told apart by two clocks. */
export function areNear(one: ClockGroup, other: ClockGroup): boolean {
  return abs(one.drift - other.drift) < TWO_CLOCKS;
}

/** Tells whether a code is clearly louder by a clock than it is by another. */
export function isLouder({ gain, height }: { gain: number; height: number }, other: number): boolean {
  const spread = height > 0 ? gain / height : 0;
  return gain - other >= max(LOUDER_BY_SPREADS * spread, LOUDER_BY_SHARE * gain);
}

/** Returns a channel by the clock of another drift. @param from the drift that was taken out of it already @param to the one to be taken out */
export function retimed(samples: Float32Array, from: number, to: number): Float32Array {
  if (from === to) return samples.slice();
  const retimer = new Retimer(1, 0, (1 - from) / (1 - to), WITHOUT_TOP);
  const [made] = retimer.push([samples], samples.length);
  const out = new Float32Array(samples.length);
  out.set(made);
  out.set(retimer.flush(samples.length, samples.length)[0], made.length);
  return out;
}
