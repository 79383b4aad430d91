import type { Way } from '../measure/way.ts';
import { PUBLISHED_USES, type PublishedUse } from '../setup/clearance.ts';
import { hourlyDriftText, listed } from '../words/figures.ts';
import type { CheckPlan } from './plan.ts';

/** A stretch in which a reference is heard where it must not be. */
export interface LeakInterval {
  reference: string;
  /** Counted from one, as people count. */
  track: number;
  startS: number;
  endS: number;
  levelDb: number;
  offsetMs: number;
  /**
   * By how much the track's clock runs fast against the reference's (parts per million); null where that cannot be told, missing in what was
   * found before it was measured.
   */
  driftPpm?: number | null;
  /** By which way it came; null where that cannot be told, missing as above. */
  way?: Way;
}

/** A pair of which nothing can be said. */
export interface UntestedPair {
  reference: string;
  track: number;
  reason: string;
}

/** The result of a check in a few words. */
export type Verdict = 'clean' | 'not clean' | 'not testable';

export interface Verification {
  verdict: Verdict;
  leaks: LeakInterval[];
  untested: UntestedPair[];
}

/** What was found of a plan, each with the uses that it concerns. */
export interface PlanFindings {
  leaks: (LeakInterval & { uses: PublishedUse[] })[];
  untested: (UntestedPair & { uses: PublishedUse[] })[];
  /** How many pairs of a sound and a track were looked at. */
  pairs: number;
}

/** The verdict for one use of a recording. */
export interface UseVerdict extends Verification {
  use: PublishedUse;
  /** The tracks that go there, counted from one. */
  tracks: number[];
  /** Tracks that go there although what they carry is not allowed there, counted from one. */
  carried: number[];
}

/** Whether tracks of the recording are looked for, and whether files are. */
export interface LookedFor {
  tracks: boolean;
  files: boolean;
}

/** Why a sound cannot be looked for. */
export const NOTHING_TO_COMPARE =
  'there is nothing to compare with, because no track carries it alone and it has no recording';

/** The verdict that follows from what was found and what could not be tested. */
export function verdictOf(leaks: readonly unknown[], untested: readonly unknown[]): Verdict {
  return leaks.length > 0 ? 'not clean' : untested.length > 0 ? 'not testable' : 'clean';
}

/**
 * Returns the verdict for each use that a track of the recording goes to and that something is not allowed for; where all is allowed,
 * nothing was looked for, and nothing is said.
 */
export function verdictsByUse(plan: CheckPlan, found: PlanFindings): UseVerdict[] {
  const unasked = usesUnasked(plan);
  return PUBLISHED_USES.flatMap((use): UseVerdict[] => {
    const going = plan.tracks.flatMap(({ goesTo }, at) => (goesTo.includes(use) ? [at] : []));
    if (going.length === 0 || unasked.includes(use)) return [];
    const tracks = going.map((at) => at + 1);
    const concerns = ({ uses, track }: { uses: PublishedUse[]; track: number }) =>
      uses.includes(use) && tracks.includes(track);
    const carried = going.filter((at) => plan.tracks[at].notFor.includes(use)).map((at) => at + 1);
    const leaks = found.leaks.filter(concerns);
    const unknown = plan.unknown
      .filter(({ notFor }) => notFor.includes(use))
      .flatMap(({ name }) => tracks.map((track) => ({ reference: name, track, reason: NOTHING_TO_COMPARE })));
    const untested = [...found.untested.filter(concerns), ...unknown];
    const verdict = verdictOf([...leaks, ...carried], untested);
    return [{ use, tracks, carried, leaks, untested, verdict }];
  });
}

/** Returns the uses that tracks of a recording go to, but that nothing is looked for in, since all is allowed there. */
export function usesUnasked({ tracks, files, unknown }: CheckPlan): PublishedUse[] {
  return PUBLISHED_USES.filter(
    (use) =>
      tracks.some(({ goesTo }) => goesTo.includes(use)) &&
      [...tracks, ...files, ...unknown].every(({ notFor }) => !notFor.includes(use)),
  );
}

/** Returns the verdict over all uses; null where nothing was looked for. */
export function overallVerdict(verdicts: UseVerdict[]): Verdict | null {
  if (verdicts.length === 0) return null;
  const is = (verdict: Verdict) => verdicts.filter((one) => one.verdict === verdict);
  return verdictOf(is('not clean'), is('not testable'));
}

/** Explains the verdict for a use in a sentence or two. */
export function verdictSentence({ verdict, tracks, carried, leaks, untested }: UseVerdict): string {
  const where = trackWords(tracks);
  const sentences: string[] = [];
  if (carried.length > 0)
    sentences.push(
      `What ${trackWords(carried)} ${carried.length > 1 ? 'carry' : 'carries'} is not allowed there.`,
    );
  const heard = namesOf(leaks);
  if (heard.length > 0)
    sentences.push(
      `Found in ${trackWords(leaks.map(({ track }) => track))}, and not allowed there: ${listed(heard, 6)}.`,
    );
  if (untested.length > 0)
    sentences.push(`Could not be checked in ${where}: ${listed(namesOf(untested), 6)}.`);
  if (verdict === 'clean') sentences.push(`Nothing was found in ${where} that is not allowed there.`);
  return sentences.join(' ');
}

/** From this drift on it is said (ppm): clocks of one device do not run apart. */
const LEAST_DRIFT_PPM = 3;

/** Says what is known of the way of a leak, and of its clock; empty where nothing is. */
export function leakNotes({ way, driftPpm }: LeakInterval): string[] {
  const notes: string[] = [];
  if (way === 'connection') notes.push('It got in through the wiring: it sounds exactly like the original.');
  if (way === 'air')
    notes.push(
      'It got in through the air: it sounds like headphones or loudspeakers that a microphone picks up.',
    );
  if (driftPpm && Math.abs(driftPpm) >= LEAST_DRIFT_PPM)
    notes.push(
      `The two drift apart by ${hourlyDriftText(driftPpm)} an hour (${Math.abs(driftPpm).toFixed(0)} ppm), so they were recorded on different clocks.`,
    );
  return notes;
}

/** Says how faint a sound may be and is still found: what “clean” stands for. (docs/measurements.md says how that was measured.) */
export function limitWords({ tracks, files }: LookedFor): string {
  const limits = [
    ...(tracks ? ['A track of the same recording is found down to about 40 dB below the rest.'] : []),
    ...(files ? ['A file is found, wherever it begins, down to about 30 dB below the rest.'] : []),
  ];
  if (limits.length === 0) return '';
  const missed = files
    ? 'What is fainter, lasts only a few seconds, or plays at another speed or pitch, may be missed.'
    : 'What is fainter, or lasts only a few seconds, may be missed.';
  return `${limits.join(' ')} ${missed}`;
}

function namesOf(pairs: { reference: string }[]): string[] {
  return [...new Set(pairs.map(({ reference }) => reference))];
}

function trackWords(tracks: number[]): string {
  const distinct = [...new Set(tracks)].sort((a, b) => a - b);
  return `track${distinct.length > 1 ? 's' : ''} ${listed(distinct.map(String))}`;
}
