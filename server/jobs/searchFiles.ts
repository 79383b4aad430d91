import { type Fingerprint, joinedPrints, PRINT_RATE } from '../../core/measure/presence/fingerprint.ts';
import type { PresenceInterval } from '../../core/measure/presence/intervals.ts';
import type { Place } from '../../core/measure/presence/lookUp.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { AudioFile } from '../media/audioFile.ts';
import type { PrintPart } from '../media/fingerprints.ts';
import { MediaError } from '../media/mediaError.ts';
import type { LookedUp } from '../media/searchRecording.ts';
import type { TaskRunner } from './runner.ts';
import type { OnShare } from './tasks.ts';
import { allOrNone, dealtOut, meanOf, someAtATime } from './together.ts';

/** A file that may begin anywhere in some tracks of a recording (counted from zero). */
export interface SearchedFile {
  path: string;
  tracks: number[];
}

/** What was found of a file in each track that was asked for. */
export interface FoundFile {
  /** How long it sounds (s): no more is counted than tells a short sound from others. */
  soundingS: number;
  intervals: HeardInterval[][];
  /** How long the recording is as it was read (s). */
  readS: number;
  /** Why it could not be read to its end; null where it could. */
  problem: string | null;
}

/** A stretch in which something is heard, and how the clocks of both run apart (ppm; null where that cannot be told). */
export type HeardInterval = PresenceInterval & { driftPpm: number | null };

/** The stretches in which something was heard. */
export function heardIntervals({ intervals, driftPpm }: Presence): HeardInterval[] {
  return intervals.map((one) => ({ ...one, driftPpm }));
}

/**
 * So many places are listened to, of each file in a track no more than the most and no fewer than the least, the highest first; those that hardly
 * stand out only where there are few of all. Where one is heard, the others are listened to as well, so many of them.
 */
const FIRST_PLACES = 120;
const LEAST_FIRST = 2;
const MOST_FIRST = 12;
const SURE_HEIGHT = 6;
const MOST_DOUBTFUL = 60;
const MOST_EACH = 100;
/** From this height on all of a sound is listened to, even where one passage of it shows nothing; so many sounds, the highest first. */
const HIGH = 8;
const MOST_WHOLE = 24;
/** Sounds that begin nearer to each other than this are one (s). */
const SAME_S = 0.5;

/** From this length on, a recording is read in two halves side by side (s). */
const LEAST_HALVED_S = 120;

interface Search {
  runner: TaskRunner;
  path: string;
  /** A folder in which the fingerprints of files are kept; null keeps none. */
  keepIn: string | null;
  signal?: AbortSignal;
}

/** A place of a file in a track that is worth listening to. */
interface Candidate extends Place {
  file: number;
  track: number;
}

/**
 * Looks for files at any moment of some tracks of a recording: they are looked up by their fingerprints, and each place where one may be is
 * listened to: first the passage that suggests it, then all of it.
 * @throws {MediaError} when the recording does not decode
 */
export async function searchFiles(
  search: Search,
  files: SearchedFile[],
  onProgress: OnShare,
): Promise<FoundFile[]> {
  if (files.length === 0) return [];
  const tracks = [...new Set(files.flatMap((file) => file.tracks))];
  const prints = await printsOf(search, tracks, (share) => onProgress(0.2 * share));
  const readS = Math.max(...prints.map(({ frames }) => frames / PRINT_RATE));
  const known = await lookedUp(search, files, tracks, prints, (share) => onProgress(0.2 + 0.4 * share));
  const candidates = known.flatMap(({ places }, file) =>
    places.flatMap((inTrack, place) =>
      inTrack.map((one) => ({ ...one, file, track: tracks.indexOf(files[file].tracks[place]) })),
    ),
  );
  const places = await listened(search, files, tracks, candidates, (share) => onProgress(0.6 + 0.4 * share));
  const found = known.map(
    ({ soundingS, problem }, file): FoundFile => ({
      soundingS,
      problem,
      readS,
      intervals: files[file].tracks.map(() => []),
    }),
  );
  for (const { file, track, presence } of places) {
    const place = files[file].tracks.indexOf(tracks[track]);
    found[file].intervals[place].push(...heardIntervals(presence));
  }
  return found;
}

/** Takes the fingerprints of tracks of the recording, in parts side by side. */
async function printsOf(
  { runner, path, signal }: Search,
  tracks: number[],
  onProgress: OnShare,
): Promise<Fingerprint[]> {
  const parts = await printParts(path, tracks);
  const shareOf = meanOf(parts.length, onProgress);
  const taken = await allOrNone(
    parts.map((part, at) => (either: AbortSignal) => {
      const options = { signal: either, onProgress: shareOf(at) };
      return runner.run('fingerprints', { path, tracks, part }, options);
    }),
    signal,
  );
  const problem = taken.find((one) => one.problem !== null)?.problem;
  if (problem) throw new MediaError('broken', problem);
  return tracks.map((_, at) => joinedPrints(taken.map(({ prints }) => prints[at])));
}

/** The halves of a long recording. */
async function printParts(path: string, tracks: number[]): Promise<PrintPart[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const lengthS = Math.max(...tracks.map((track) => file.tracks[track]?.durationS ?? 0));
  if (!(lengthS >= LEAST_HALVED_S)) return [{ fromFrame: 0, untilFrame: null }];
  const middle = Math.floor((lengthS * PRINT_RATE) / 2);
  return [
    { fromFrame: 0, untilFrame: middle },
    { fromFrame: middle, untilFrame: null },
  ];
}

/** Looks up files in tracks (by their fingerprints), and says of each what is known of it so far. */
async function lookedUp(
  { runner, keepIn, signal }: Search,
  files: SearchedFile[],
  tracks: number[],
  prints: Fingerprint[],
  onProgress: OnShare,
): Promise<LookedUp[]> {
  return dealtOut(
    files,
    (group, either, onShare) => {
      const asked = group.map((file) => ({
        path: file.path,
        tracks: file.tracks.map((track) => tracks.indexOf(track)),
      }));
      const request = { tracks: prints, files: asked, keepIn };
      return runner.run('lookUp', request, { signal: either, onProgress: onShare });
    },
    signal,
    onProgress,
  );
}

/** Listens to the places where something may be; returns those where it is. */
async function listened(
  { runner, path, signal }: Search,
  files: SearchedFile[],
  tracks: number[],
  candidates: Candidate[],
  onProgress: OnShare,
): Promise<(Candidate & { presence: Presence })[]> {
  const listen = async (places: Candidate[], isWhole: boolean, onShare: OnShare): Promise<Presence[]> => {
    const groups = isWhole ? places.map((place) => [place]) : ofOneFile(places);
    const heard = await someAtATime(
      groups.map((group) => (either: AbortSignal) => {
        const request = {
          path: files[group[0].file].path,
          recording: path,
          places: group.map(({ track, beginsS, passageS }) => ({
            track: tracks[track],
            beginsS,
            passageS: isWhole ? null : passageS,
          })),
        };
        return runner.run('listen', request, { signal: either });
      }),
      signal,
      onShare,
    );
    const found = new Map(groups.flatMap((group, at) => group.map((place, i) => [place, heard[at][i]])));
    return places.map((place) => found.get(place) as Presence);
  };
  const hear = async (places: Candidate[], onShare: OnShare) => {
    const heard = await listen(places, false, onShare);
    return places.filter((_, at) => heard[at].present);
  };
  const sorted = [...candidates].sort((a, b) => b.height - a.height);
  const chosen = worthListening(sorted);
  const first = await hear(chosen, (share) => onProgress(0.4 * share));
  const others = sorted.filter(
    (one) =>
      one.height >= SURE_HEIGHT && !chosen.includes(one) && first.some((heard) => isOfOnePair(one, heard)),
  );
  const more = await hear(atMostEach(others, MOST_EACH), (share) => onProgress(0.4 + 0.2 * share));
  const heard = [...first, ...more];
  const worth = [...heard, ...highestUnheard(chosen, heard)];
  // Of places that are one, the highest is listened to; what it turns out to be decides.
  const distinct = worth.filter((one, at) => !worth.slice(0, at).some((other) => isSame(one, other)));
  const whole = await listen(distinct, true, (share) => onProgress(0.6 + 0.4 * share));
  return distinct
    .map((candidate, at) => ({ ...candidate, presence: whole[at] }))
    .filter(({ presence }) => presence.present);
}

/** The places of each file, which are listened to together: it is read once for all of them. */
function ofOneFile(places: Candidate[]): Candidate[][] {
  const files = new Map<number, Candidate[]>();
  for (const place of places) files.set(place.file, [...(files.get(place.file) ?? []), place]);
  return [...files.values()];
}

/** The places to listen to first. @param sorted the highest first */
function worthListening(sorted: Candidate[]): Candidate[] {
  const pairs = new Set(sorted.map(keyOf)).size;
  const each = Math.min(MOST_FIRST, Math.max(LEAST_FIRST, Math.floor(FIRST_PLACES / pairs)));
  const first = atMostEach(sorted, each);
  const doubtful = first.filter(({ height }) => height < SURE_HEIGHT);
  const most = new Set(doubtful.slice(0, MOST_DOUBTFUL));
  return first.filter((one) => one.height >= SURE_HEIGHT || most.has(one));
}

/** Of each file in a track, no more places than this. @param sorted the highest first */
function atMostEach(sorted: Candidate[], most: number): Candidate[] {
  const counts = new Map<string, number>();
  return sorted.filter((one) => {
    const key = keyOf(one);
    counts.set(key, (counts.get(key) ?? 0) + 1);
    return (counts.get(key) ?? 0) <= most;
  });
}

/** Of each file and track that no passage was heard of, the place that stands out most, where it stands out far. */
function highestUnheard(chosen: Candidate[], heard: Candidate[]): Candidate[] {
  return chosen
    .filter((one, at) => {
      const before = [...heard, ...chosen.slice(0, at)];
      return one.height >= HIGH && !before.some((other) => isOfOnePair(one, other));
    })
    .slice(0, MOST_WHOLE);
}

function keyOf({ file, track }: Candidate): string {
  return `${file} ${track}`;
}

function isOfOnePair(one: Candidate, other: Candidate): boolean {
  return keyOf(one) === keyOf(other);
}

function isSame(one: Candidate, other: Candidate): boolean {
  return isOfOnePair(one, other) && Math.abs(one.beginsS - other.beginsS) <= SAME_S;
}
