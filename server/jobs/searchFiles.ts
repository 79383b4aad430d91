import type { Fingerprint } from '../../core/measure/presence/fingerprint.ts';
import type { PresenceInterval } from '../../core/measure/presence/intervals.ts';
import type { Place } from '../../core/measure/presence/lookUp.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { MediaError } from '../media/mediaError.ts';
import type { TaskRunner } from './runner.ts';
import type { OnShare } from './tasks.ts';
import { allOrNone, meanOf, someAtATime } from './together.ts';

/** A file that may begin anywhere in some tracks of a recording (counted from zero). */
export interface SearchedFile {
  path: string;
  tracks: number[];
}

/** What was found of a file in each track that was asked for. */
export interface FoundFile {
  /** False where nothing sounds in it. */
  isTestable: boolean;
  intervals: HeardInterval[][];
  /** Why it could not be read to its end; null where it could. */
  problem: string | null;
}

/** A stretch in which something is heard, and how the clocks of both run apart (ppm; null where that cannot be told). */
export type HeardInterval = PresenceInterval & { driftPpm: number | null };

/** The stretches in which something was heard. */
export function heardIntervals({ intervals, driftPpm }: Presence): HeardInterval[] {
  return intervals.map((one) => ({ ...one, driftPpm }));
}

/** Files are looked up on so many threads side by side. */
const THREADS = 2;
/**
 * Of each file in a track, so many places are listened to, the highest first; those that hardly stand out only where there are few of all. Where
 * one is heard, the others are listened to as well, so many of them.
 */
const FIRST_EACH = 2;
const SURE_HEIGHT = 6;
const MOST_DOUBTFUL = 60;
const MOST_EACH = 100;
/** From this height on all of a sound is listened to, even where one passage of it shows nothing; so many sounds, the highest first. */
const HIGH = 8;
const MOST_WHOLE = 24;
/** Sounds that begin nearer to each other than this are one (s). */
const SAME_S = 0.5;

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
  const found = files.map(
    ({ tracks }): FoundFile => ({ isTestable: false, intervals: tracks.map(() => []), problem: null }),
  );
  if (files.length === 0) return found;
  const tracks = [...new Set(files.flatMap((file) => file.tracks))];
  const prints = await printsOf(search, tracks, (share) => onProgress(0.2 * share));
  const candidates = await lookedUp(search, files, tracks, prints, found, (share) =>
    onProgress(0.2 + 0.4 * share),
  );
  const places = await listened(search, files, tracks, candidates, (share) => onProgress(0.6 + 0.4 * share));
  for (const { file, track, presence } of places) {
    const place = files[file].tracks.indexOf(tracks[track]);
    found[file].intervals[place].push(...heardIntervals(presence));
  }
  return found;
}

async function printsOf(
  { runner, path, signal }: Search,
  tracks: number[],
  onProgress: OnShare,
): Promise<Fingerprint[]> {
  const groups = dealt(tracks.map((_, at) => at));
  const shareOf = meanOf(groups.length, onProgress);
  const parts = await allOrNone(
    groups.map((group, index) => (either: AbortSignal) => {
      const request = { path, tracks: group.map((at) => tracks[at]) };
      return runner.run('fingerprints', request, { signal: either, onProgress: shareOf(index) });
    }),
    signal,
  );
  const damaged = parts.find(({ problem }) => problem !== null);
  if (damaged?.problem) throw new MediaError('broken', damaged.problem);
  const prints: Fingerprint[] = [];
  groups.forEach((group, part) => {
    group.forEach((at, place) => {
      prints[at] = parts[part].prints[place];
    });
  });
  return prints;
}

async function lookedUp(
  { runner, keepIn, signal }: Search,
  files: SearchedFile[],
  tracks: number[],
  prints: Fingerprint[],
  found: FoundFile[],
  onProgress: OnShare,
): Promise<Candidate[]> {
  const groups = dealt(files.map((_, at) => at));
  const shareOf = meanOf(groups.length, onProgress);
  const parts = await allOrNone(
    groups.map((group, index) => (either: AbortSignal) => {
      const asked = group.map((at) => ({
        path: files[at].path,
        tracks: files[at].tracks.map((track) => tracks.indexOf(track)),
      }));
      const request = { tracks: prints, files: asked, keepIn };
      return runner.run('lookUp', request, { signal: either, onProgress: shareOf(index) });
    }),
    signal,
  );
  return groups.flatMap((group, part) =>
    group.flatMap((file, at) => {
      const { isSilent, problem, places } = parts[part][at];
      found[file].isTestable = !isSilent;
      found[file].problem = problem;
      return places.flatMap((inTrack, place) =>
        inTrack.map((one) => ({ ...one, file, track: tracks.indexOf(files[file].tracks[place]) })),
      );
    }),
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
  const listen = (candidate: Candidate, passageS: number | null, either: AbortSignal) =>
    runner.run(
      'listen',
      {
        reference: { path: files[candidate.file].path, track: 0 },
        track: { path, track: tracks[candidate.track] },
        beginsS: candidate.beginsS,
        passageS,
      },
      { signal: either },
    );
  const hear = async (places: Candidate[], onShare: OnShare) => {
    const heard = await someAtATime(
      places.map((place) => (either: AbortSignal) => listen(place, place.passageS, either)),
      signal,
      onShare,
    );
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
  const whole = await someAtATime(
    distinct.map((candidate) => (either: AbortSignal) => listen(candidate, null, either)),
    signal,
    (share) => onProgress(0.6 + 0.4 * share),
  );
  return distinct
    .map((candidate, at) => ({ ...candidate, presence: whole[at] }))
    .filter(({ presence }) => presence.present);
}

/** The places to listen to first. @param sorted the highest first */
function worthListening(sorted: Candidate[]): Candidate[] {
  const first = atMostEach(sorted, FIRST_EACH);
  const doubtful = first.filter(({ height }) => height < SURE_HEIGHT);
  const most = new Set(doubtful.slice(0, MOST_DOUBTFUL));
  return first.filter((one) => one.height >= SURE_HEIGHT || most.has(one));
}

/** Of each file in a track, no more places than this. @param sorted the highest first */
function atMostEach(sorted: Candidate[], most: number): Candidate[] {
  const counts = new Map<string, number>();
  return sorted.filter(({ file, track }) => {
    const key = `${file} ${track}`;
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

function isOfOnePair(one: Candidate, other: Candidate): boolean {
  return one.file === other.file && one.track === other.track;
}

function isSame(one: Candidate, other: Candidate): boolean {
  return isOfOnePair(one, other) && Math.abs(one.beginsS - other.beginsS) <= SAME_S;
}

/** Deals things out to as many threads as there are, in turn. */
function dealt<T>(things: T[]): T[][] {
  const groups = Array.from({ length: Math.min(THREADS, things.length) }, (_, group) =>
    things.filter((_thing, at) => at % THREADS === group),
  );
  return groups;
}
