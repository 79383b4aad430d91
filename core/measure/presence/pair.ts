import type { Kernels } from '../../kernels/kernels.ts';
import { highestPeak, LAGS, type Peak, robustSpread } from './correlate.ts';
import {
  intervalsOf,
  type LagTrend,
  lagTrend,
  levelOf,
  medianLag,
  type PresenceInterval,
} from './intervals.ts';
import { backedWindows, isHeard, windowsTogether } from './secondLook.ts';
import { THRESHOLDS } from './thresholds.ts';
import { mayCount, SAME_LAG, type WindowEvidence } from './windowEvidence.ts';
import { FLAT_RATE, FRAMES_PER_FLAT_FRAME, HOP_FRAMES, MAX_LAG, STRETCH_S } from './windows.ts';

const { abs, exp, max, min } = Math;

/** Whether a reference is in a track, how loud and where. */
export interface Presence {
  /** False when the reference is silent all along: then nothing can be said. */
  testable: boolean;
  /** How long the reference sounds in all (s): where that is very little, that it was not found says little. */
  soundingS: number;
  present: boolean;
  levelDb: number | null;
  offsetMs: number | null;
  /** By how much the track's clock runs fast against the reference's (parts per million); null where that cannot be told. */
  driftPpm: number | null;
  /** 1 less the chance that unrelated sound would look like this, for the strongest evidence found. */
  confidence: number;
  /** The share of the windows that could be tested in which it was heard. */
  heardShare: number;
  intervals: PresenceInterval[];
}

/** Windows add up to a file with their correlations capped at this many spreads, so that none can carry the sum. */
const CAP = 6;
/** Levels of references are counted by whole dB, down to what is silent. */
const LEVELS = 80;
/** A reference has a floor of its own where so many dB lie between its loud and its quiet windows; windows this near to it are its floor. */
const FLOOR_RANGE_DB = 15;
const FLOOR_DB = 6;
const LEAST_LOUD = 3;
/** Until so many windows are summed, every one is asked whether all agree; then every fourth. */
const FEW_WINDOWS = 16;

/** What was gathered of one reference and one track: plain data, so that it can go from thread to thread. */
export interface PairState {
  /** The windows that may count; of the others there are many, and only how many is kept. */
  windows: WindowEvidence[];
  examined: number;
  testable: number;
  /** In how many stretches of a quarter of a second the reference sounds. */
  soundingStretches: number;
  /** How many testable windows have a reference of each level, by whole dB below full scale. */
  levels: number[];
  highest: number;
  sum: Float32Array;
  summed: number;
}

/** Joins what was gathered of the parts of a recording, in their order. */
export function joinedStates(parts: PairState[]): PairState {
  const sum = new Float32Array(LAGS);
  for (const part of parts) for (let i = 0; i < LAGS; i++) sum[i] += part.sum[i];
  const total = (of: (part: PairState) => number) => parts.reduce((all, part) => all + of(part), 0);
  return {
    windows: parts.flatMap(({ windows }, part) => {
      const before = parts.slice(0, part).reduce((sum, one) => sum + one.testable, 0);
      return windows.map((window) => ({ ...window, order: before + window.order }));
    }),
    examined: total(({ examined }) => examined),
    testable: total(({ testable }) => testable),
    soundingStretches: total(({ soundingStretches }) => soundingStretches),
    levels: Array.from({ length: LEVELS }, (_, db) => total(({ levels }) => levels[db])),
    highest: max(...parts.map(({ highest }) => highest)),
    sum,
    summed: total(({ summed }) => summed),
  };
}

/** Nothing gathered yet. @param sum zeros, one for each lag */
export function emptyState(sum: Float32Array): PairState {
  return {
    windows: [],
    examined: 0,
    testable: 0,
    soundingStretches: 0,
    levels: new Array<number>(LEVELS).fill(0),
    highest: 0,
    sum,
    summed: 0,
  };
}

/** Gathers the windows of one reference and one track, and decides. */
export class PairEvidence {
  readonly state: PairState;
  private agreed: number | null = null;

  constructor(state = emptyState(new Float32Array(LAGS))) {
    this.state = state;
  }

  /** Adds the correlation of a window to the file's sum, until that has agreed on a lag. Both lie in the memory of the loops. */
  addLags({ addCapped }: Kernels['loops'], lags: Float32Array): void {
    if (this.agreed !== null) return;
    addCapped(lags.byteOffset, CAP, this.state.sum.byteOffset, LAGS);
    this.state.summed += 1;
  }

  addWindow(evidence: WindowEvidence): void {
    this.state.examined += 1;
    if (evidence.testable) {
      this.state.testable += 1;
      this.state.soundingStretches += evidence.newStretches;
      this.state.levels[levelIndex(evidence.referenceDb)] += 1;
    }
    this.state.highest = max(this.state.highest, evidence.peak?.height ?? 0);
    if (mayCount(evidence)) this.state.windows.push(evidence);
  }

  /**
   * Returns the window before, when its gain was estimated at the same lag: the estimates of every other window cover
   * all of the time already, since windows overlap by half.
   */
  estimateBefore(index: number, lag: number): WindowEvidence | null {
    const before = this.state.windows.at(-1);
    const isSame =
      before?.index === index - 1 &&
      before.weight > 0 &&
      before.significance >= THRESHOLDS.significance &&
      abs((before.peak?.lag ?? 0) - lag) <= SAME_LAG;
    return isSame ? before : null;
  }

  /** The lag that the windows so far agree on, or null; looked at anew with every fourth window. */
  fileLag(): number | null {
    if (this.agreed === null && (this.state.summed % 4 === 1 || this.state.summed < FEW_WINDOWS)) {
      const peak = this.filePeak();
      this.agreed = peak && peak.height >= THRESHOLDS.file ? peak.lag : null;
    }
    return this.agreed;
  }

  /** The peak of the sum over the windows so far, or null before there was one. */
  filePeak(): Peak | null {
    if (this.state.summed === 0) return null;
    const peak = highestPeak(this.state.sum);
    return { ...peak, height: peak.height / max(robustSpread(this.state.sum), 1e-9) };
  }

  /** The lag (frames at 32 kHz) that all windows together suggest, whether or not any of them shows it by itself; or null. */
  private suggestedLag(): number | null {
    const peak = this.filePeak();
    return peak && peak.height >= THRESHOLDS.file ? peak.lag : null;
  }

  /** Where a second look is worth taking: the lags at which the sound was heard, or that all windows together suggest; or null. */
  lagToLookAt(): LagTrend | null {
    const backed = backedWindows(this.state.windows);
    if (backed.length > 0) return lagTrend(backed) ?? { atStart: medianLag(backed), perWindow: 0 };
    const atStart = this.suggestedLag();
    return atStart === null ? null : { atStart, perWindow: 0 };
  }

  /**
   * Decides over everything that was gathered.
   * @param lengthS where the shorter of both sounds ends
   * @param isLagSuggested when the survey looked around a lag that all windows together suggested, but none showed: that they agree on it says
   *   nothing then, and only what they show together counts
   */
  result(lengthS: number, isLagSuggested = false): Presence {
    const testable = this.state.testable > 0;
    const soundingS = this.state.soundingStretches * STRETCH_S;
    const file = this.filePeak();
    const { windows } = this.state;
    const backed = isLagSuggested ? [] : backedWindows(windows);
    const together = backed.length === 0 && file ? windowsTogether(windows, file) : [];
    const heard = backed.length > 0 ? windows.filter((window) => isHeard(window, backed)) : together;
    const levelDb = levelOf(heard);
    // A statement without a level is none; and what is heard only where the reference itself is as good as silent is its noise.
    if (!testable || levelDb === null || this.isNoiseAlone(heard)) {
      return {
        testable,
        soundingS,
        present: false,
        levelDb: null,
        offsetMs: null,
        driftPpm: null,
        confidence: this.confidence(file),
        heardShare: 0,
        intervals: [],
      };
    }
    return {
      testable,
      soundingS,
      present: true,
      levelDb,
      offsetMs: ((backed.length > 0 ? medianLag(backed) : (file?.lag ?? 0)) / FLAT_RATE) * 1000,
      driftPpm: driftOf(lagTrend(heard)),
      confidence: this.confidence(file),
      heardShare: heard.length / this.state.testable,
      intervals: intervalsOf(heard, lengthS),
    };
  }

  /**
   * Tells whether the reference is heard in its quietest windows alone, and not in any of its loud ones: then what both sounds share is what
   * lies at the floor of both (the noise of one converter, a hum), and not the reference.
   */
  private isNoiseAlone(heard: WindowEvidence[]): boolean {
    const { levels } = this.state;
    const [quiet, loud] = [this.levelAbove(0.9), this.levelAbove(0.25)];
    const loudWindows = levels.slice(0, -loud + 1).reduce((sum, count) => sum + count, 0);
    if (loud - quiet < FLOOR_RANGE_DB || loudWindows < LEAST_LOUD || heard.length === 0) return false;
    return heard.every(({ referenceDb }) => referenceDb <= quiet + FLOOR_DB);
  }

  /** The level (dBFS) that so large a share of the testable windows reach. */
  private levelAbove(share: number): number {
    let left = share * this.state.testable;
    const at = this.state.levels.findIndex((count) => {
      left -= count;
      return left <= 0;
    });
    return -max(0, at);
  }

  /**
   * 1 less the chance that the best window or the sum of an unrelated pair reaches this high: the tail of a Gaussian
   * over all lags and windows (the null distribution lies below it, see docs/measurements.md).
   */
  private confidence(file: Peak | null): number {
    const chance = (height: number, trials: number) =>
      min(1, (trials * exp(-(height * height) / 2)) / max(height, 1));
    const byWindow = chance(this.state.highest, this.state.examined * 2 * MAX_LAG);
    const byFile = file ? chance(file.height, 2 * MAX_LAG) : 1;
    return 1 - min(byWindow, byFile);
  }
}

/** The drift that a trend of lags means (ppm); null where there is none to tell. */
function driftOf(trend: LagTrend | null): number | null {
  return trend && (trend.perWindow / (HOP_FRAMES / FRAMES_PER_FLAT_FRAME)) * 1e6;
}

function levelIndex(db: number): number {
  return max(0, min(LEVELS - 1, Math.round(-db)));
}
