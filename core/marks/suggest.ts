import type { Proposal } from '../check/recording.ts';
import type { Suggestion } from '../deliver/records.ts';

/** How loud a track is, step by step, and what it carries. */
export interface TrackCourse {
  role: Proposal['role'];
  /** The mean power of both sides over each step. */
  powers: ArrayLike<number>;
}

/** Powers are taken over so much (s). */
export const STEP_S = 0.25;

/** A track sounds where it is no more than this below its loud places (dB), and above this (dBFS). */
const BELOW_LOUD_DB = 25;
const LEAST_DBFS = -60;
/** An alert comes after so much quiet (s). */
const QUIET_BEFORE_S = 2;
/** Pauses of speech that are shorter are no end of it (s). */
const PAUSE_S = 0.75;
/** Talking at once counts when it lasts so long, and is one moment with shorter breaks than this (s). */
const LEAST_AT_ONCE_S = 1.5;
const BREAK_S = 2;
/** A loud moment is so long (s), that far from others, and that much above the rest (dB). */
const LOUD_S = 3;
const APART_S = 20;
const LOUD_OVER_DB = 4;
const LEAST_GAP_S = 3;
/** No more of a kind are suggested. */
const MOST_LOUD = 8;
const MOST_OF_A_KIND = 40;

/** A run of steps: the first, and the first after it. */
type Run = [from: number, until: number];

/**
 * Returns moments of a recording that may be worth a mark, in the order of time: alerts, people talking at once, the loudest moments and silences
 * in which nothing sounds.
 */
export function suggestMarks(tracks: TrackCourse[]): Suggestion[] {
  const steps = Math.max(0, ...tracks.map(({ powers }) => powers.length));
  const of = (...roles: TrackCourse['role'][]) => tracks.filter(({ role }) => roles.includes(role));
  // A mix holds what the other tracks hold already.
  const alone = tracks.some(({ role }) => role !== 'mix' && role !== 'silent')
    ? tracks.filter(({ role }) => role !== 'mix')
    : tracks;
  const sum = Float64Array.from({ length: steps }, (_, at) =>
    alone.reduce((total, { powers }) => total + (powers[at] ?? 0), 0),
  );
  const found = [
    ...of('alerts').flatMap(alertsIn),
    ...atOnce(of('voice', 'voice chat'), steps),
    ...loudest(sum),
    ...silences(sum),
  ];
  return found.sort((a, b) => a.atS - b.atS);
}

function alertsIn({ powers }: TrackCourse): Suggestion[] {
  const runs = joinedRuns(runsOf(soundingSteps(powers)), QUIET_BEFORE_S);
  return runs
    .slice(0, MOST_OF_A_KIND)
    .map(([from]) => ({ kind: 'alert', atS: from * STEP_S, endS: null, name: 'Alert' }));
}

function atOnce(voices: TrackCourse[], steps: number): Suggestion[] {
  const speaking = voices.map(({ powers }) => {
    const isOn = new Uint8Array(steps);
    for (const [from, until] of joinedRuns(runsOf(soundingSteps(powers)), PAUSE_S)) isOn.fill(1, from, until);
    return isOn;
  });
  const together = Uint8Array.from({ length: steps }, (_, at) =>
    speaking.reduce((count, isOn) => count + isOn[at], 0) >= 2 ? 1 : 0,
  );
  return joinedRuns(runsOf(together), BREAK_S)
    .filter(([from, until]) => (until - from) * STEP_S >= LEAST_AT_ONCE_S)
    .sort((a, b) => b[1] - b[0] - (a[1] - a[0]))
    .slice(0, MOST_OF_A_KIND)
    .map(([from, until]) => ({
      kind: 'at once',
      atS: from * STEP_S,
      endS: until * STEP_S,
      name: 'Talking at once',
    }));
}

function loudest(sum: Float64Array): Suggestion[] {
  const width = Math.round(LOUD_S / STEP_S);
  const windows: { from: number; power: number }[] = [];
  for (let from = 0; from + width <= sum.length; from += 2) {
    let power = 0;
    for (let at = from; at < from + width; at++) power += sum[at] / width;
    if (toDb(power) > LEAST_DBFS) windows.push({ from, power });
  }
  windows.sort((a, b) => b.power - a.power);
  const usual = windows[Math.floor(windows.length / 2)]?.power ?? 0;
  const chosen: typeof windows = [];
  for (const one of windows) {
    if (chosen.length === MOST_LOUD || toDb(one.power / usual) < LOUD_OVER_DB) break;
    if (chosen.every(({ from }) => Math.abs(from - one.from) * STEP_S >= APART_S)) chosen.push(one);
  }
  return chosen.map(({ from }) => ({
    kind: 'loud',
    atS: from * STEP_S,
    endS: (from + width) * STEP_S,
    name: 'Loud moment',
  }));
}

function silences(sum: Float64Array): Suggestion[] {
  const isQuiet = Uint8Array.from(sum, (power) => (toDb(power) > LEAST_DBFS ? 0 : 1));
  return runsOf(isQuiet)
    .filter(([from, until]) => (until - from) * STEP_S >= LEAST_GAP_S)
    .slice(0, MOST_OF_A_KIND)
    .map(([from, until]) => ({ kind: 'silence', atS: from * STEP_S, endS: until * STEP_S, name: 'Silence' }));
}

/** Marks the steps in which a track sounds, by how loud its loud places are. */
function soundingSteps(powers: ArrayLike<number>): Uint8Array {
  const audible = Array.from(powers)
    .map(toDb)
    .filter((db) => db > LEAST_DBFS)
    .sort((a, b) => a - b);
  const loud = audible[Math.floor(audible.length * 0.95)] ?? 0;
  const least = Math.max(LEAST_DBFS, loud - BELOW_LOUD_DB);
  return Uint8Array.from(powers, (power) => (toDb(power) > least ? 1 : 0));
}

function runsOf(isOn: Uint8Array): Run[] {
  const runs: Run[] = [];
  for (let at = 0; at < isOn.length; at++) {
    if (isOn[at] === 0) continue;
    if (at > 0 && isOn[at - 1] === 1) runs[runs.length - 1][1] = at + 1;
    else runs.push([at, at + 1]);
  }
  return runs;
}

/** Joins runs with less than so much between them (s). */
function joinedRuns(runs: Run[], lessThanS: number): Run[] {
  const joined: Run[] = [];
  for (const [from, until] of runs) {
    const last = joined.at(-1);
    if (last && (from - last[1]) * STEP_S < lessThanS) last[1] = until;
    else joined.push([from, until]);
  }
  return joined;
}

function toDb(power: number): number {
  return 10 * Math.log10(Math.max(power, 1e-20));
}
