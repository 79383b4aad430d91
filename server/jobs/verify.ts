import {
  type LeakInterval,
  type UntestedPair,
  type Verification,
  verdictOf,
} from '../../core/check/verification.ts';
import {
  joinedStates,
  PairEvidence,
  type PairState,
  type Presence,
} from '../../core/measure/presence/pair.ts';
import { HOP_FRAMES } from '../../core/measure/presence/windows.ts';
import type { Way } from '../../core/measure/way.ts';
import { AudioFile } from '../media/audioFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { problemOf, type Reference, readable } from '../media/references.ts';
import { STEM_RATE } from '../media/stem.ts';
import type { SurveyedPair, SurveyedSound, SurveyRequest } from '../media/surveyRecording.ts';
import type { RunOptions, TaskRunner } from './runner.ts';
import { type HeardInterval, heardIntervals, searchFiles } from './searchFiles.ts';
import { allOrNone, meanOf, someAtATime } from './together.ts';

/** A recording is surveyed in this many parts side by side, where it is long enough (s). */
const PARTS = 2;
const LEAST_PART_S = 60;
/** So many references are looked for in one pass: each takes memory of its own. */
const AT_ONCE = 16;
/** Files are looked for along with the recording where there are no more than this, or where they are about as long as it. */
const FEW_FILES = 16;
const AS_LONG = 0.8;
/** Stretches that are this near belong together (s), and offsets (ms). */
const NEAR_S = 5;
const SAME_OFFSET_MS = 5;

/** How a recording is checked. */
export interface VerifyOptions extends RunOptions {
  /** A folder in which the fingerprints of files are kept, so that a library is read once; null keeps none. */
  keepIn?: string | null;
}

/** A pair of a reference and a track, by their places in the lists. */
interface Pair {
  reference: number;
  track: number;
}

/** The recording and what is looked for in it. */
interface Task {
  runner: TaskRunner;
  path: string;
  references: Reference[];
  tracks: number[];
  lengthS: number;
  keepIn: string | null;
  signal?: AbortSignal;
}

/**
 * Looks in a recording for every reference in each track that it must not be in: tracks of the recording itself and files that may go
 * along with it from its start, then files that may begin anywhere.
 * @throws {MediaError} when a file does not decode, or has no such track
 */
export async function verifyRecording(
  runner: TaskRunner,
  path: string,
  asked: Reference[],
  { onProgress = () => {}, keepIn = null, signal }: VerifyOptions = {},
): Promise<Verification> {
  const { references, filesS, unreadable } = await readable(asked);
  const tracks = [...new Set(references.flatMap(({ forbiddenIn }) => forbiddenIn))].sort((a, b) => a - b);
  const task: Task = {
    runner,
    path,
    references,
    tracks,
    lengthS: await lengthOf(path, references),
    keepIn,
    signal,
  };
  const pairs = references.flatMap(({ forbiddenIn }, reference) =>
    forbiddenIn.map((track): Pair => ({ reference, track: tracks.indexOf(track) })),
  );
  const files = filesS.filter((seconds) => seconds !== null).length;
  const goesAlong = filesS.map(
    (seconds) => seconds === null || files <= FEW_FILES || seconds >= AS_LONG * task.lengthS,
  );
  const problems = new Map<number, string>();
  const along = pairs.flatMap(({ reference }, at) => (goesAlong[reference] ? [at] : []));
  const surveys = await surveyed(
    task,
    along.map((at) => ({ ...pairs[at], around: null })),
    problems,
    (share) => onProgress(0.5 * share),
  );
  const first = surveys.map((survey, index) => ({ pair: pairs[along[index]], ...judged(survey) }));
  const closer = await lookedAgain(task, first, (share) => onProgress(0.5 + 0.2 * share));
  const intervals: HeardInterval[][] = pairs.map(() => []);
  const isTestable = pairs.map(() => false);
  along.forEach((at, index) => {
    intervals[at] = heardIntervals(closer.get(index) ?? first[index].presence);
    isTestable[at] = first[index].presence.testable;
  });
  await searchElsewhere(task, pairs, { intervals, isTestable, problems }, (share) =>
    onProgress(0.7 + 0.2 * share),
  );
  const drones = await dronesAmong(
    task,
    pairs.filter((_, at) => intervals[at].length === 0 && isTestable[at]).map(({ reference }) => reference),
  );
  const ways = await waysOf(task, pairs, intervals);
  onProgress(1);

  const leaks: LeakInterval[] = [];
  const untested: UntestedPair[] = [...unreadable];
  for (const [at, { reference, track }] of pairs.entries()) {
    const named = { reference: references[reference].name, track: tracks[track] + 1 };
    leaks.push(...joined(intervals[at]).map((one) => ({ ...named, ...one, way: ways[at] })));
    if (intervals[at].length > 0) continue;
    const problem = problems.get(reference);
    if (problem !== undefined)
      untested.push({ ...named, reason: `it was not found as far as it can be read: ${problem}` });
    else if (!isTestable[at])
      untested.push({ ...named, reason: 'the reference is silent, or too short to compare' });
    else if (drones.has(reference))
      untested.push({
        ...named,
        reason: 'the reference is a few steady tones, of which nobody can tell where they come from',
      });
  }
  return {
    verdict: verdictOf(leaks, untested),
    leaks: leaks.sort((a, b) => a.track - b.track || a.startS - b.startS),
    untested,
  };
}

/** How long the recording says that it is (s). @throws {MediaError} where it has no track that is asked for */
async function lengthOf(path: string, references: Reference[]): Promise<number> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const count = file.tracks.length;
  const asked = references.flatMap(({ track, forbiddenIn }) => [
    ...(track === null ? [] : [track]),
    ...forbiddenIn,
  ]);
  for (const track of asked)
    if (track >= count || track < 0)
      throw new MediaError(
        'no-audio',
        `There is no audio track ${track + 1}; the file has ${count}. Choose tracks from 1 to ${count}.`,
      );
  return Math.max(...file.tracks.map(({ durationS }) => durationS));
}

function soundOf({ track, path }: Reference): SurveyedSound {
  return path === null ? { track: track ?? 0, path: null } : { track: null, path };
}

/** What was gathered of a pair, and how long the recording is (s), as it was read. */
interface Surveyed {
  state: PairState;
  lengthS: number;
}

/** Surveys pairs over the whole recording, some references at a time. What is wrong with files is added to the problems. */
async function surveyed(
  task: Task,
  pairs: SurveyedPair[],
  problems: Map<number, string>,
  onProgress: (share: number) => void,
): Promise<Surveyed[]> {
  const used = [...new Set(pairs.map(({ reference }) => reference))];
  const found: Surveyed[] = new Array(pairs.length);
  for (let from = 0; from < used.length; from += AT_ONCE) {
    const batch = used.slice(from, from + AT_ONCE);
    const at = pairs.flatMap(({ reference }, index) => (batch.includes(reference) ? [index] : []));
    const surveys = await surveyedAtOnce(
      task,
      at.map((index) => pairs[index]),
      problems,
      (share) => onProgress((from + share * batch.length) / used.length),
    );
    at.forEach((index, place) => {
      found[index] = surveys[place];
    });
  }
  return found;
}

/** Surveys pairs over the whole recording in one pass, in parts side by side. */
async function surveyedAtOnce(
  { runner, path, references, tracks, lengthS, signal }: Task,
  pairs: SurveyedPair[],
  problems: Map<number, string>,
  onProgress: (share: number) => void,
): Promise<Surveyed[]> {
  const used = [...new Set(pairs.map(({ reference }) => reference))];
  const lookedIn = [...new Set(pairs.map(({ track }) => track))];
  const request = {
    path,
    references: used.map((reference) => soundOf(references[reference])),
    tracks: lookedIn.map((track) => tracks[track]),
    pairs: pairs.map(({ reference, track, around }) => ({
      reference: used.indexOf(reference),
      track: lookedIn.indexOf(track),
      around,
    })),
  };
  const shareOf = meanOf(partsOf(lengthS).length, onProgress);
  const parts = await allOrNone(
    partsOf(lengthS).map((part, index) => (either: AbortSignal) => {
      const options = { signal: either, onProgress: shareOf(index) };
      return runner.run('survey', { ...request, ...part }, options);
    }),
    signal,
  );
  for (const part of parts)
    part.problems.forEach((problem, at) => {
      if (problem !== null) problems.set(used[at], problemOf(references[used[at]], problem));
    });
  const readS = Math.max(...parts.map(({ endFrames }) => endFrames)) / STEM_RATE;
  return pairs.map((_, at) => ({
    state: joinedStates(parts.map(({ states }) => states[at])),
    lengthS: readS,
  }));
}

/** The parts in which a recording is surveyed, in windows. */
function partsOf(lengthS: number): Pick<SurveyRequest, 'fromWindow' | 'untilWindow'>[] {
  const windows = Math.floor((lengthS * STEM_RATE) / HOP_FRAMES);
  const count = lengthS >= PARTS * LEAST_PART_S ? PARTS : 1;
  const starts = Array.from({ length: count }, (_, part) => Math.floor((windows * part) / count));
  return starts.map((fromWindow, part) => ({ fromWindow, untilWindow: starts[part + 1] ?? null }));
}

function judged({ state, lengthS }: Surveyed, isLagSuggested = false) {
  const evidence = new PairEvidence(state);
  return { presence: evidence.result(lengthS, isLagSuggested), lags: evidence.lagToLookAt() };
}

/**
 * Looks again, around the lag that was found, at pairs that were not heard all along: quieter stretches are seen then, and those that all windows
 * together suggest, but none by itself.
 * @returns what was found of those that were heard at least as long again, by the place of their pairs
 */
async function lookedAgain(
  task: Task,
  first: ({ pair: Pair } & ReturnType<typeof judged>)[],
  onProgress: (share: number) => void,
): Promise<Map<number, Presence>> {
  const again = first.flatMap(({ pair, presence, lags }, at) => {
    const isWhole = presence.present && presence.heardShare === 1;
    return lags === null || isWhole ? [] : [{ at, pair: { ...pair, around: lags } }];
  });
  const surveys = await surveyed(
    task,
    again.map(({ pair }) => pair),
    new Map(),
    onProgress,
  );
  return new Map(
    again.flatMap(({ at }, index): [number, Presence][] => {
      const { presence } = judged(surveys[index], !first[at].presence.present);
      return presence.present && presence.heardShare >= first[at].presence.heardShare ? [[at, presence]] : [];
    }),
  );
}

/** What is known of each pair, and of the files that cannot be read to their end. */
interface Known {
  intervals: HeardInterval[][];
  isTestable: boolean[];
  problems: Map<number, string>;
}

/** Looks for files that were not found along the recording at any moment of it. */
async function searchElsewhere(
  { runner, path, references, tracks, keepIn, signal }: Task,
  pairs: Pair[],
  { intervals, isTestable, problems }: Known,
  onProgress: (share: number) => void,
): Promise<void> {
  const wanted = references.flatMap(({ path: file }, reference) => {
    const at = pairs.flatMap((pair, index) =>
      pair.reference === reference && intervals[index].length === 0 ? [index] : [],
    );
    return file !== null && at.length > 0 ? [{ reference, file, at }] : [];
  });
  const found = await searchFiles(
    { runner, path, keepIn, signal },
    wanted.map(({ file, at }) => ({ path: file, tracks: at.map((one) => tracks[pairs[one].track]) })),
    onProgress,
  );
  wanted.forEach(({ reference, at }, index) => {
    const { problem, isTestable: hasSound, intervals: heard } = found[index];
    if (problem !== null) problems.set(reference, problemOf(references[reference], problem));
    at.forEach((pair, track) => {
      intervals[pair] = heard[track];
      isTestable[pair] ||= hasSound;
    });
  });
}

/** Finds out by which way each sound that was found came, where it is heard longest. */
async function waysOf(
  { runner, path, references, tracks, signal }: Task,
  pairs: Pair[],
  intervals: HeardInterval[][],
): Promise<Way[]> {
  const ways: Way[] = pairs.map(() => null);
  const found = pairs.flatMap((pair, at) => {
    const [longest] = [...intervals[at]].sort((a, b) => b.endS - b.startS - (a.endS - a.startS));
    return longest ? [{ pair, at, longest }] : [];
  });
  const heard = await someAtATime(
    found.map(({ pair, longest: { startS, endS, offsetMs, driftPpm } }) => (either: AbortSignal) => {
      const sound = soundOf(references[pair.reference]);
      const request = { path, sound, track: tracks[pair.track], startS, endS, offsetMs, driftPpm };
      return runner.run('way', request, { signal: either });
    }),
    signal,
  );
  found.forEach(({ at }, index) => {
    ways[at] = heard[index];
  });
  return ways;
}

/** Which of some references are nothing but a few steady tones. */
async function dronesAmong(
  { runner, path, references, signal }: Task,
  asked: number[],
): Promise<Set<number>> {
  const distinct = [...new Set(asked)];
  const are = await allOrNone(
    distinct.map(
      (reference) => (either: AbortSignal) =>
        runner.run('fewTones', { path, sound: soundOf(references[reference]) }, { signal: either }),
    ),
    signal,
  );
  return new Set(distinct.filter((_, index) => are[index]));
}

/** Joins stretches that lie close together at one offset. */
function joined(intervals: HeardInterval[]): HeardInterval[] {
  const whole: HeardInterval[] = [];
  for (const one of [...intervals].sort((a, b) => a.startS - b.startS)) {
    const last = whole.at(-1);
    const isSame =
      last && one.startS - last.endS <= NEAR_S && Math.abs(one.offsetMs - last.offsetMs) <= SAME_OFFSET_MS;
    if (!isSame) whole.push({ ...one });
    else {
      last.endS = Math.max(last.endS, one.endS);
      last.levelDb = Math.max(last.levelDb, one.levelDb);
    }
  }
  return whole;
}
