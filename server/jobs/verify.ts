import { basename } from 'node:path';
import {
  type LeakInterval,
  type UntestedPair,
  type Verification,
  verdictOf,
} from '../../core/check/verification.ts';
import type { PresenceInterval } from '../../core/measure/presence/intervals.ts';
import { joinedStates, PairEvidence, type PairState } from '../../core/measure/presence/pair.ts';
import { FRAMES_PER_FLAT_FRAME, HOP_FRAMES } from '../../core/measure/presence/windows.ts';
import { AudioFile } from '../media/audioFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { STEM_RATE } from '../media/stem.ts';
import type { SurveyedPair, SurveyedSound, SurveyRequest } from '../media/surveyRecording.ts';
import type { RunOptions, TaskRunner } from './runner.ts';
import { allOrNone, meanOf } from './together.ts';

/** A sound that must not be in a track: another track of the recording (counted from zero), or a file. */
export interface Reference {
  name: string;
  track: number | null;
  path: string | null;
  /** The tracks that it must not be in, counted from zero. */
  forbiddenIn: number[];
}

/** A recording is surveyed in this many parts side by side, where it is long enough (s). */
const PARTS = 2;
const LEAST_PART_S = 60;
/** So many references are looked for in one pass: each takes memory of its own. */
const AT_ONCE = 16;
/** Stretches that are this near belong together (s), and offsets (ms). */
const NEAR_S = 5;
const SAME_OFFSET_MS = 5;

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
  signal?: AbortSignal;
}

/**
 * Looks in a recording for every reference in each track that it must not be in: tracks of the recording itself and files that go
 * along with it from its start, then files that may begin anywhere.
 * @throws {MediaError} when a file does not decode, or has no such track
 */
export async function verifyRecording(
  runner: TaskRunner,
  path: string,
  asked: Reference[],
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<Verification> {
  const { references, unreadable } = await readable(asked);
  const tracks = [...new Set(references.flatMap(({ forbiddenIn }) => forbiddenIn))].sort((a, b) => a - b);
  const task: Task = {
    runner,
    path,
    references,
    tracks,
    lengthS: await lengthOf(path, references),
    signal,
  };
  const pairs = references.flatMap(({ forbiddenIn }, reference) =>
    forbiddenIn.map((track): Pair => ({ reference, track: tracks.indexOf(track) })),
  );
  const surveys = await surveyed(
    task,
    pairs.map((pair) => ({ ...pair, around: null })),
    (share) => onProgress(0.5 * share),
  );
  const first = pairs.map((pair, at) => ({ pair, ...judged(surveys[at]) }));
  const closer = await lookedAgain(task, first, (share) => onProgress(0.5 + 0.2 * share));
  const intervals = first.map((one, at) => closer.get(at) ?? one.presence.intervals);
  const isTestable = first.map(({ presence }) => presence.testable);
  await searchElsewhere(task, pairs, intervals, isTestable, (share) => onProgress(0.7 + 0.2 * share));
  const drones = await dronesAmong(
    task,
    pairs.filter((_, at) => intervals[at].length === 0 && isTestable[at]).map(({ reference }) => reference),
  );
  onProgress(1);

  const leaks: LeakInterval[] = [];
  const untested: UntestedPair[] = [...unreadable];
  for (const [at, { reference, track }] of pairs.entries()) {
    const named = { reference: references[reference].name, track: tracks[track] + 1 };
    leaks.push(...joined(intervals[at]).map((one) => ({ ...named, ...one })));
    if (intervals[at].length > 0) continue;
    if (!isTestable[at])
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

/** Sorts out the references whose files cannot be opened: of those nothing can be said, but of the others. */
async function readable(
  asked: Reference[],
): Promise<{ references: Reference[]; unreadable: UntestedPair[] }> {
  const references: Reference[] = [];
  const unreadable: UntestedPair[] = [];
  for (const reference of asked) {
    const problem = reference.path === null ? null : await openingProblem(reference.path, reference.name);
    if (problem === null) references.push(reference);
    else
      unreadable.push(
        ...reference.forbiddenIn.map((track) => ({
          reference: reference.name,
          track: track + 1,
          reason: `its file cannot be read: ${problem}`,
        })),
      );
  }
  return { references, unreadable };
}

async function openingProblem(path: string, name: string): Promise<string | null> {
  try {
    (await AudioFile.open(path, { allowCut: true })).close();
    return null;
  } catch (error) {
    if (error instanceof MediaError) return error.message.replaceAll(basename(path), name).replace(/\.$/, '');
    throw error;
  }
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

/** Surveys pairs over the whole recording, some references at a time. */
async function surveyed(
  task: Task,
  pairs: SurveyedPair[],
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
  return { presence: evidence.result(lengthS, isLagSuggested), suggested: evidence.suggestedLag() };
}

/**
 * Looks again, around the lag that was found, at pairs that were not heard all along: quieter stretches are seen then, and those that all windows
 * together suggest, but none by itself.
 * @returns the intervals of those that were found again, by the place of their pairs
 */
async function lookedAgain(
  task: Task,
  first: ({ pair: Pair } & ReturnType<typeof judged>)[],
  onProgress: (share: number) => void,
): Promise<Map<number, PresenceInterval[]>> {
  const again = first.flatMap(({ pair, presence, suggested }, at) => {
    const found =
      presence.offsetMs === null ? null : ((presence.offsetMs / 1000) * STEM_RATE) / FRAMES_PER_FLAT_FRAME;
    const lag = presence.present ? found : suggested;
    const isWhole = presence.present && presence.heardShare === 1;
    return lag === null || isWhole ? [] : [{ at, pair: { ...pair, around: lag * FRAMES_PER_FLAT_FRAME } }];
  });
  const surveys = await surveyed(
    task,
    again.map(({ pair }) => pair),
    onProgress,
  );
  return new Map(
    again.flatMap(({ at }, index): [number, PresenceInterval[]][] => {
      const { presence } = judged(surveys[index], !first[at].presence.present);
      return presence.present ? [[at, presence.intervals]] : [];
    }),
  );
}

/** Looks for files that were not found along the recording at any moment of it. */
async function searchElsewhere(
  { runner, path, references, tracks, signal }: Task,
  pairs: Pair[],
  intervals: PresenceInterval[][],
  isTestable: boolean[],
  onProgress: (share: number) => void,
): Promise<void> {
  const wanted = references.flatMap(({ path: file }, reference) => {
    const at = pairs.flatMap((pair, index) =>
      pair.reference === reference && intervals[index].length === 0 ? [index] : [],
    );
    return file !== null && at.length > 0 ? [{ file, at }] : [];
  });
  const shareOf = meanOf(Math.max(1, wanted.length), onProgress);
  const found = await allOrNone(
    wanted.map(({ file, at }, index) => (either: AbortSignal) => {
      const request = { path, file, tracks: at.map((one) => tracks[pairs[one].track]) };
      return runner.run('search', request, { signal: either, onProgress: shareOf(index) });
    }),
    signal,
  );
  wanted.forEach(({ at }, index) => {
    at.forEach((pair, track) => {
      intervals[pair] = found[index][track].intervals;
      isTestable[pair] ||= found[index][track].testable;
    });
  });
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
function joined(intervals: PresenceInterval[]): PresenceInterval[] {
  const whole: PresenceInterval[] = [];
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
