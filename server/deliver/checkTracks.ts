import type { LeakInterval, UntestedPair } from '../../core/check/verification.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import type { Reference } from '../media/references.ts';

/** Every sound that must not be published, and the names of those that cannot be looked for. */
export interface Forbidden {
  sounds: Reference[];
  unknown: string[];
}

/** What is known of sounds in tracks of a recording: which were looked for where, and what was found. Tracks of findings count from one. */
export interface TrackFindings {
  /** Pairs that were looked at, each a sound and a track (counted from zero). */
  asked: { sound: string; track: number }[];
  leaks: LeakInterval[];
  untested: UntestedPair[];
}
export const NOTHING_KNOWN: TrackFindings = { asked: [], leaks: [], untested: [] };

/**
 * Looks in each of some tracks (counted from zero) for each sound that must not be published, but for the track that carries it. Pairs that are
 * known already are not looked at again.
 * @returns what is known of these pairs
 * @throws {MediaError} when the recording does not decode
 */
export async function checkTracks(
  runner: TaskRunner,
  path: string,
  tracks: number[],
  sounds: Reference[],
  known: TrackFindings = NOTHING_KNOWN,
  options: RunOptions = {},
): Promise<TrackFindings> {
  const isKnown = (sound: string, track: number) =>
    known.asked.some((pair) => pair.sound === sound && pair.track === track);
  const wanted = sounds.map((sound) => ({
    ...sound,
    forbiddenIn: tracks.filter((one) => !carries(sound, one)),
  }));
  const open = wanted
    .map((one) => ({ ...one, forbiddenIn: one.forbiddenIn.filter((track) => !isKnown(one.name, track)) }))
    .filter(({ forbiddenIn }) => forbiddenIn.length > 0);
  const found =
    open.length > 0 ? await verifyRecording(runner, path, open, options) : { leaks: [], untested: [] };
  const asked = wanted.flatMap(({ name, forbiddenIn }) =>
    forbiddenIn.map((track) => ({ sound: name, track })),
  );
  const isAsked = ({ reference, track }: { reference: string; track: number }) =>
    asked.some((pair) => pair.sound === reference && pair.track === track - 1);
  return {
    asked,
    leaks: [...known.leaks.filter(isAsked), ...found.leaks],
    untested: [...known.untested.filter(isAsked), ...found.untested],
  };
}

/** Tells whether a track of the recording (counted from zero) is the sound. */
export function carries({ path, track }: Reference, one: number): boolean {
  return path === null && track === one;
}
