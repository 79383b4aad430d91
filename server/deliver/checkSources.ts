import type { LeakInterval, UntestedPair } from '../../core/check/verification.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import type { Reference } from '../media/references.ts';

/** Every sound that must not be in an upload, and the names of those that cannot be looked for. */
export interface Forbidden {
  sounds: Reference[];
  unknown: string[];
}

/** What is known of the tracks that an upload is made of, in the time of the recording. */
export interface SourceFindings {
  leaks: LeakInterval[];
  untested: UntestedPair[];
  /** The sounds that were looked for in all of them, over the whole recording, and could be. */
  tested: string[];
}

/** Puts together what is known of several tracks. */
export function allSources(found: SourceFindings[]): SourceFindings {
  return {
    leaks: found.flatMap(({ leaks }) => leaks),
    untested: found.flatMap(({ untested }) => untested),
    tested: (found[0]?.tested ?? []).filter((name) => found.every(({ tested }) => tested.includes(name))),
  };
}

/**
 * Looks in each track that an upload is made of, for what must not be in it: in a track alone a sound is found more easily than in the mix that is
 * made of it. A track that carries such a sound itself holds it from its start to its end.
 * @param tracks counted from zero
 * @throws {MediaError} when the recording does not decode
 */
export async function checkSources(
  runner: TaskRunner,
  path: string,
  tracks: number[],
  { sounds }: Pick<Forbidden, 'sounds'>,
  options: RunOptions = {},
): Promise<SourceFindings> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const carried = sounds.flatMap(({ name, track, path: from }): LeakInterval[] =>
    from === null && track !== null && tracks.includes(track)
      ? [
          {
            reference: name,
            track: track + 1,
            startS: 0,
            endS: file.tracks[track].durationS,
            levelDb: 0,
            offsetMs: 0,
          },
        ]
      : [],
  );
  const asked = sounds
    .map((sound) => ({
      ...sound,
      forbiddenIn: tracks.filter((one) => sound.path !== null || one !== sound.track),
    }))
    .filter(({ forbiddenIn }) => forbiddenIn.length > 0);
  const { leaks, untested } =
    asked.length > 0 ? await verifyRecording(runner, path, asked, options) : { leaks: [], untested: [] };
  const tested = sounds.flatMap(({ name }) =>
    untested.some(({ reference }) => reference === name) ? [] : [name],
  );
  return { leaks: [...carried, ...leaks], untested, tested };
}

/** What of it concerns a stretch of the recording (s), as it lies in what is made of it. */
export function foundWithin(
  { leaks, untested }: Pick<SourceFindings, 'leaks' | 'untested'>,
  { fromS, lengthS }: { fromS: number; lengthS: number },
): Pick<SourceFindings, 'leaks' | 'untested'> {
  return {
    leaks: leaks
      .filter(({ startS, endS }) => startS < fromS + lengthS && endS > fromS)
      .map((leak) => ({
        ...leak,
        track: 1,
        startS: Math.max(0, leak.startS - fromS),
        endS: Math.min(lengthS, leak.endS - fromS),
      })),
    untested: untested.map((one) => ({ ...one, track: 1 })),
  };
}
