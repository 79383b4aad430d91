import { highestPeak, LAGS, type Peak, robustSpread } from './correlate.ts';
import { THRESHOLDS } from './thresholds.ts';
import { FLAT_RATE, HOP_FRAMES, MAX_LAG, RATE, STRETCH_S, WINDOW_FRAMES } from './windows.ts';

const { abs, exp, floor, max, min, sqrt } = Math;

/** What one window showed of a reference in a track. */
export interface WindowEvidence {
  index: number;
  /** Its place among the windows that can be tested: what follows a silence follows what was before it. */
  order: number;
  /** False where the reference is silent: the window says nothing. */
  testable: boolean;
  /** How loud the reference is (dBFS, mean power). */
  referenceDb: number;
  peak: Peak | null;
  /** Capped evidence over the window's stretches at the peak, in spreads: see `evidence.ts`. */
  spread: number;
  /** In how many stretches the reference is active. */
  activeStretches: number;
  /** The first and the last stretch that shows the sound clearly; −1 where none does. (Two numbers: there are many windows.) */
  firstClear: number;
  lastClear: number;
  gain: number;
  weight: number;
  /** The lag at which the gain was estimated (frames at 32 kHz); null where it was not. */
  gainLag: number | null;
  /** How many times its own uncertainty the gain is: chance correlations explain next to nothing of the track. */
  significance: number;
}

/** A stretch of time in which the reference is heard in the track. */
export interface PresenceInterval {
  startS: number;
  endS: number;
  /** Gain of the reference as found (dB). */
  levelDb: number;
  /** How much later the track carries the sound than the reference does (ms). */
  offsetMs: number;
}

/** Whether a reference is in a track, how loud and where. */
export interface Presence {
  /** False when the reference is silent all along: then nothing can be said. */
  testable: boolean;
  present: boolean;
  levelDb: number | null;
  offsetMs: number | null;
  /** 1 less the chance that unrelated sound would look like this, for the strongest evidence found. */
  confidence: number;
  /** The share of the windows that could be tested in which it was heard. */
  heardShare: number;
  intervals: PresenceInterval[];
}

/** Windows add up to a file with their correlations capped at this many spreads, so that none can carry the sum. */
const CAP = 6;
/**
 * A window in which the reference is active for less than this many stretches (3 s) needs a higher peak, since a short
 * sound of few tones finds its like by chance.
 */
const FULL_STRETCHES = 12;
/** Levels of references are counted by whole dB, down to what is silent. */
const LEVELS = 80;
/** A reference has a floor of its own where so many dB lie between its loud and its quiet windows; windows this near to it are its floor. */
const FLOOR_RANGE_DB = 15;
const FLOOR_DB = 6;
const LEAST_LOUD = 3;
/** Windows that back each other are this near, at most, among those that can be tested. */
const NEAR_WINDOWS = 4;
/** Until so many windows are summed, every one is asked whether all agree; then every fourth. */
const FEW_WINDOWS = 16;
/** Lags of one sound differ by no more (frames at 32 kHz). */
const SAME_PLACE = 2;
/** Two clocks may drift apart by so much from window to window (frames at 32 kHz; 110 ppm). */
const MOST_DRIFT = 9;
/** Gains of one sound lie within this factor (6 dB). */
const ALIKE_GAIN = 2;
/** Windows show something together when there are so many, and so large a share of them agrees in polarity. */
const LEAST_TOGETHER = 6;
const LEAST_AGREEING = 0.85;
/** What a backed window shows is looked for in those around it, so many to each side (a minute). */
const REACH_WINDOWS = 24;
/** Lags within 1 ms belong to the same offset. */
const SAME_LAG = FLAT_RATE / 1000;

/** What was gathered of one reference and one track: plain data, so that it can go from thread to thread. */
export interface PairState {
  /** The windows that may count; of the others there are many, and only how many is kept. */
  windows: WindowEvidence[];
  examined: number;
  testable: number;
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
    levels: Array.from({ length: LEVELS }, (_, db) => total(({ levels }) => levels[db])),
    highest: max(...parts.map(({ highest }) => highest)),
    sum,
    summed: total(({ summed }) => summed),
  };
}

/** Gathers the windows of one reference and one track, and decides. */
export class PairEvidence {
  readonly state: PairState;
  private agreed: number | null = null;

  constructor(
    state: PairState = {
      windows: [],
      examined: 0,
      testable: 0,
      levels: new Array<number>(LEVELS).fill(0),
      highest: 0,
      sum: new Float32Array(LAGS),
      summed: 0,
    },
  ) {
    this.state = state;
  }

  /** Adds the correlation of a window to the file's sum, until that has agreed on a lag. */
  addLags(lags: Float32Array): void {
    if (this.agreed !== null) return;
    for (let i = 0; i < LAGS; i++) {
      const value = lags[i];
      this.state.sum[i] += max(-CAP, min(CAP, value));
    }
    this.state.summed += 1;
  }

  addWindow(evidence: WindowEvidence): void {
    this.state.examined += 1;
    if (evidence.testable) {
      this.state.testable += 1;
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
  suggestedLag(): number | null {
    const peak = this.filePeak();
    return peak && peak.height >= THRESHOLDS.file ? peak.lag : null;
  }

  /**
   * Decides over everything that was gathered.
   * @param lengthS where the shorter of both sounds ends
   * @param isLagSuggested when the survey looked around a lag that all windows together suggested, but none showed: that they agree on it says
   *   nothing then, and only what they show together counts
   */
  result(lengthS: number, isLagSuggested = false): Presence {
    const testable = this.state.testable > 0;
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
        present: false,
        levelDb: null,
        offsetMs: null,
        confidence: this.confidence(file),
        heardShare: 0,
        intervals: [],
      };
    }
    return {
      testable,
      present: true,
      levelDb,
      offsetMs: ((backed.length > 0 ? medianLag(backed) : (file?.lag ?? 0)) / FLAT_RATE) * 1000,
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

function levelIndex(db: number): number {
  return max(0, min(LEVELS - 1, Math.round(-db)));
}

/**
 * The second look: the windows that others back. Tunes of one tempo and instrument make single windows that pass for one another, three in a
 * hundred pairs of 15 s, but not two one after the other that share no sound and agree in lag, polarity and level. A window that stands
 * far above all that chance makes needs no other.
 */
function backedWindows(windows: WindowEvidence[]): WindowEvidence[] {
  const measured = windows.filter((window) => window.weight > 0 && isBacking(window));
  return measured.filter((window, at) => {
    const height = window.peak?.height ?? 0;
    if (min(height, window.significance) >= THRESHOLDS.alone) return true;
    if (height >= THRESHOLDS.window && window.significance >= THRESHOLDS.aloneByGain) return true;
    const near = measured.slice(max(0, at - NEAR_WINDOWS), at + NEAR_WINDOWS + 1);
    return near.some((other) => agree(window, other));
  });
}

/**
 * What no window shows by itself may be shown by many together: the correlations of all agree on a lag, and so do the gains there, in polarity
 * and far above their common uncertainty. Returns the windows that show it; none where they do not.
 */
function windowsTogether(windows: WindowEvidence[], { lag, height }: Peak): WindowEvidence[] {
  const there = windows.filter(
    ({ weight, gainLag }) => weight > 0 && gainLag !== null && abs(gainLag - lag) <= SAME_LAG,
  );
  if (height < THRESHOLDS.file || there.length < LEAST_TOGETHER) return [];
  const weight = there.reduce((sum, window) => sum + window.weight, 0);
  const gain = there.reduce((sum, window) => sum + window.weight * window.gain, 0) / weight;
  const agreeing = there.filter((window) => window.gain * gain > 0);
  const share = agreeing.length / there.length;
  if (abs(gain) * sqrt(weight) < THRESHOLDS.together || share < LEAST_AGREEING) return [];
  return agreeing.filter(({ significance }) => significance >= 1);
}

/** Tells whether the gain of a window stands above its uncertainty. */
function isBacking({ peak, significance }: WindowEvidence): boolean {
  return peak !== null && significance >= THRESHOLDS.significance;
}

/** Tells whether two windows that do not overlap, but follow each other, show the same sound. */
function agree(one: WindowEvidence, other: WindowEvidence): boolean {
  const apart = abs(one.index - other.index);
  if (apart < 2 || abs(one.order - other.order) > NEAR_WINDOWS || !one.peak || !other.peak) return false;
  const ratio = one.gain / other.gain;
  const areSure = min(one.significance, other.significance) >= THRESHOLDS.drifting;
  const mayDiffer = areSure ? MOST_DRIFT * apart : SAME_PLACE;
  return abs(one.peak.lag - other.peak.lag) <= mayDiffer && ratio > 1 / ALIKE_GAIN && ratio < ALIKE_GAIN;
}

/** Tells whether a window shows the sound: it is backed itself, or it shows what a backed one near it shows. */
function isHeard(window: WindowEvidence, backed: WindowEvidence[]): boolean {
  if (backed.includes(window)) return true;
  return backed.some(
    (other) => abs(other.index - window.index) <= REACH_WINDOWS && isSeen(window, other.peak?.lag ?? null),
  );
}

/** Tells whether a window could be a candidate at some lag, or has a gain. */
function mayCount({ peak, spread, weight, significance }: WindowEvidence): boolean {
  const stands = (peak?.height ?? 0) >= THRESHOLDS.windowAtLag && spread >= THRESHOLDS.spread;
  return stands || weight > 0 || significance > 0;
}

/** Tells whether a window shows the reference by itself, or (given the file's lag) together with the others. */
export function isSeen(window: WindowEvidence, fileLag: number | null): boolean {
  if (fileLag !== null && abs((window.peak?.lag ?? 0) - fileLag) > SAME_LAG) return false;
  return isCandidate(window, fileLag) && window.significance >= THRESHOLDS.significance;
}

/** Tells whether a window's correlation alone suggests the reference, so that its gain is worth estimating. */
export function isCandidate(
  { peak, spread, activeStretches }: WindowEvidence,
  fileLag: number | null,
): boolean {
  if (!peak || spread < THRESHOLDS.spread) return false;
  if (peak.height >= THRESHOLDS.window * max(1, sqrt(FULL_STRETCHES / activeStretches))) return true;
  return fileLag !== null && abs(peak.lag - fileLag) <= SAME_LAG && peak.height >= THRESHOLDS.windowAtLag;
}

function medianLag(windows: WindowEvidence[]): number {
  const lags = windows.map((window) => window.peak?.lag ?? 0).sort((a, b) => a - b);
  return lags[floor(lags.length / 2)];
}

function levelOf(windows: WindowEvidence[]): number | null {
  const weight = windows.reduce((sum, window) => sum + window.weight, 0);
  if (weight === 0) return null;
  const gain = windows.reduce((sum, window) => sum + window.weight * abs(window.gain), 0) / weight;
  return gain > 0 && Number.isFinite(gain) ? 20 * Math.log10(gain) : null;
}

function intervalsOf(heard: WindowEvidence[], lengthS: number): PresenceInterval[] {
  const groups: WindowEvidence[][] = [];
  for (const window of heard) {
    const last = groups.at(-1)?.at(-1);
    const joins =
      last &&
      window.index - last.index <= 2 &&
      abs((window.peak?.lag ?? 0) - (last.peak?.lag ?? 0)) <= SAME_LAG;
    if (joins) groups.at(-1)?.push(window);
    else groups.push([window]);
  }
  return groups.flatMap((group) => {
    const levelDb = levelOf(group);
    if (levelDb === null) return [];
    return [
      {
        startS: edgeOf(group[0], 'first'),
        endS: min(lengthS, edgeOf(group[group.length - 1], 'last')),
        levelDb,
        offsetMs: (medianLag(group) / FLAT_RATE) * 1000,
      },
    ];
  });
}

/** The time (s) of the first or the last stretch of a window that shows the sound clearly. */
function edgeOf({ index, firstClear, lastClear }: WindowEvidence, edge: 'first' | 'last'): number {
  const startS = (index * HOP_FRAMES) / RATE;
  const at = edge === 'first' ? firstClear : lastClear;
  if (at < 0) return edge === 'first' ? startS : startS + WINDOW_FRAMES / RATE;
  return startS + (edge === 'first' ? at : at + 1) * STRETCH_S;
}
