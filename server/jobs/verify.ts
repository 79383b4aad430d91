import { type BreakOff, breakOffWords } from '../../core/check/recording.ts';
import {
  type LeakInterval,
  type UntestedPair,
  type Verification,
  verdictOf,
} from '../../core/check/verification.ts';
import type { Way } from '../../core/measure/way.ts';
import { AudioFile } from '../media/audioFile.ts';
import { breakOffOf } from '../media/breakOff.ts';
import { MediaError } from '../media/mediaError.ts';
import { problemOf, type Reference, readable, soundOf } from '../media/references.ts';
import type { RunOptions, TaskRunner } from './runner.ts';
import { type HeardInterval, heardIntervals, searchFiles } from './searchFiles.ts';
import { type CheckedRecording, type Pair, surveyAlong } from './surveys.ts';
import type { OnShare } from './tasks.ts';
import { someAtATime } from './together.ts';

/** Files are looked for along with the recording where there are no more than this, or where they are about as long as it. */
const FEW_FILES = 16;
const AS_LONG = 0.8;
/** Stretches that are this near belong together (s), and offsets (ms). */
const NEAR_S = 5;
const SAME_OFFSET_MS = 5;
/** By which way a sound came is found out for so many stretches, the longest. */
const MOST_WAYS = 24;
/** A file that is heard along for less than this may be elsewhere (s). */
const HARDLY_S = 10;
/** Of a sound that lasts no longer than this in all (s), nobody can say that it is not there. */
const TOO_SHORT_S = 3;

/** How a recording is checked. */
export interface VerifyOptions extends RunOptions {
  /** A folder in which the fingerprints of files are kept, so that a library is read once; null keeps none. */
  keepIn?: string | null;
}

/** What is known of a pair. */
interface KnownPair extends Pair {
  intervals: HeardInterval[];
  /** How long the reference sounds (s). */
  soundingS: number;
  /** How long the recording is as it was read (s). */
  readS: number;
  /** What is wrong with the file of the reference; null where it was read to its end. */
  problem: string | null;
}

/** A stretch of a pair in which the reference was found. */
interface Found {
  pair: KnownPair;
  stretch: HeardInterval;
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
  const lengthS = await lengthOf(path, references);
  const recording: CheckedRecording = { runner, path, references, tracks, lengthS, signal };
  const pairs = references.flatMap(({ forbiddenIn }, reference) =>
    forbiddenIn.map((track): KnownPair => {
      const place = tracks.indexOf(track);
      return { reference, track: place, intervals: [], soundingS: 0, readS: 0, problem: null };
    }),
  );
  const files = filesS.filter((seconds) => seconds !== null).length;
  const goesAlong = filesS.map(
    (seconds, at) =>
      seconds === null ||
      references[at].piece !== undefined ||
      files <= FEW_FILES ||
      seconds >= AS_LONG * lengthS,
  );
  const along = pairs.filter(({ reference }) => goesAlong[reference]);
  const heard = await surveyAlong(recording, along, (share) => onProgress(0.7 * share));
  for (const [at, { presence, readS, problem }] of heard.entries())
    Object.assign(along[at], {
      intervals: heardIntervals(presence),
      soundingS: presence.soundingS,
      readS,
      problem,
    });
  await searchElsewhere(recording, keepIn, pairs, (share) => onProgress(0.7 + 0.2 * share));
  const drones = await dronesAmong(
    recording,
    pairs.filter(({ intervals, soundingS }) => intervals.length === 0 && soundingS > 0),
  );
  const found = pairs.flatMap((pair) => joined(pair.intervals).map((stretch): Found => ({ pair, stretch })));
  const ways = await waysOf(recording, found);
  onProgress(1);

  const named = ({ reference, track }: Pair) => ({
    reference: references[reference].name,
    track: tracks[track] + 1,
  });
  const leaks = found.map(
    (one): LeakInterval => ({
      ...named(one.pair),
      ...one.stretch,
      way: ways.get(one) ?? null,
    }),
  );
  const readS = Math.max(0, ...pairs.map((pair) => pair.readS));
  const breakOff = await breakOffOf(path, lengthS, readS);
  const brokenOff = breakOff && whyBrokenOff(breakOff);
  const untested: UntestedPair[] = pairs.flatMap((pair) => {
    const reason = pair.intervals.length > 0 ? null : (brokenOff ?? whyUntested(pair, references, drones));
    return reason === null ? [] : [{ ...named(pair), reason }];
  });
  const all = [...unreadable, ...untested];
  return {
    verdict: verdictOf(leaks, all),
    leaks: leaks.sort((a, b) => a.track - b.track || a.startS - b.startS),
    untested: all,
  };
}

function whyBrokenOff(breakOff: BreakOff): string {
  const isAnyThere = breakOff.atS > 0;
  return `${breakOffWords(breakOff)}${isAnyThere ? ': of the rest nothing can be said. Repair it, and check what is there' : ''}`;
}

/** Why nothing can be said of a pair although nothing was found; null where it can. */
function whyUntested(
  { reference, soundingS, problem }: KnownPair,
  references: Reference[],
  drones: Set<number>,
): string | null {
  if (problem !== null)
    return `its file is damaged, and up to there it was not found: ${problemOf(references[reference], problem)}`;
  if (soundingS === 0) return 'nothing sounds in it, so there is nothing to compare with';
  if (drones.has(reference))
    return 'it is nothing but a few steady tones, and of those nobody can tell where they come from';
  if (soundingS < TOO_SHORT_S)
    return `it sounds for ${soundingS.toFixed(1)} s in all, which is too short to say that it is not there`;
  return null;
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

/** Looks for files that were hardly found along the recording at any moment of it: a short stretch may be one note that is like another. */
async function searchElsewhere(
  { runner, path, references, tracks, signal }: CheckedRecording,
  keepIn: string | null,
  pairs: KnownPair[],
  onProgress: OnShare,
): Promise<void> {
  const wanted = references.flatMap(({ path: file, piece }, reference) => {
    const open = pairs.filter((pair) => pair.reference === reference && heardS(pair) < HARDLY_S);
    return file !== null && !piece && open.length > 0 ? [{ file, open }] : [];
  });
  const found = await searchFiles(
    { runner, path, keepIn, signal },
    wanted.map(({ file, open }) => ({ path: file, tracks: open.map(({ track }) => tracks[track]) })),
    onProgress,
  );
  for (const [index, { open }] of wanted.entries()) {
    const { problem, soundingS, readS, intervals } = found[index];
    open.forEach((pair, place) => {
      pair.intervals = [...pair.intervals, ...intervals[place]];
      pair.soundingS = Math.max(pair.soundingS, soundingS);
      pair.readS = Math.max(pair.readS, readS);
      pair.problem ??= problem;
    });
  }
}

function heardS({ intervals }: KnownPair): number {
  return intervals.reduce((sum, { startS, endS }) => sum + endS - startS, 0);
}

/** Finds out by which way the sounds that were found came, of the longest stretches. */
async function waysOf(
  { runner, path, references, tracks, signal }: CheckedRecording,
  found: Found[],
): Promise<Map<Found, Way>> {
  const lengthOf = ({ stretch }: Found) => stretch.endS - stretch.startS;
  const longest = [...found].sort((a, b) => lengthOf(b) - lengthOf(a)).slice(0, MOST_WAYS);
  const ways = await someAtATime(
    longest.map(({ pair, stretch: { startS, endS, offsetMs, driftPpm } }) => (either: AbortSignal) => {
      const sound = soundOf(references[pair.reference]);
      const request = { path, sound, track: tracks[pair.track], startS, endS, offsetMs, driftPpm };
      return runner.run('way', request, { signal: either });
    }),
    signal,
  );
  return new Map(longest.map((one, at) => [one, ways[at]]));
}

/** Which references of some pairs are nothing but a few steady tones. */
async function dronesAmong(
  { runner, path, references, signal }: CheckedRecording,
  pairs: Pair[],
): Promise<Set<number>> {
  const distinct = [...new Set(pairs.map(({ reference }) => reference))];
  const are = await someAtATime(
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
