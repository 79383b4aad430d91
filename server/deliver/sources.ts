import type { LeakInterval, UntestedPair } from '../../core/check/verification.ts';
import type { Reference } from '../media/references.ts';
import { carries, type TrackFindings } from './checkTracks.ts';

/** What an upload is made of: a track of the recording (counted from zero), and which sound was taken out of it, with what was left of that. */
export interface UploadSource {
  track: number;
  rescued: { sound: string; leaks: LeakInterval[] } | null;
}

/** What is known of what an upload is made of, in the time of the recording. */
export interface SourceFindings {
  leaks: LeakInterval[];
  untested: UntestedPair[];
  /** The sounds that were looked for in all of it, over the whole recording, and could be. */
  tested: string[];
}

/**
 * Returns what is known of what an upload is made of, from what is known of the tracks: in a track alone a sound is found more easily than in the
 * mix that is made of it. A track that carries such a sound holds it from its start to its end; of a sound that was taken out, it counts what
 * was left.
 */
export function sourceFindings(
  sources: UploadSource[],
  sounds: Reference[],
  { leaks, untested }: Pick<TrackFindings, 'leaks' | 'untested'>,
): SourceFindings {
  const found = sources.map(({ track, rescued }) => {
    const isOfIt = (one: { reference: string; track: number }) =>
      one.track === track + 1 && one.reference !== rescued?.sound;
    const own = sounds.filter((sound) => carries(sound, track) && sound.name !== rescued?.sound);
    return {
      leaks: [
        ...own.map(({ name }) => wholeTrack(name, track)),
        ...leaks.filter(isOfIt),
        ...(rescued?.leaks ?? []),
      ],
      untested: untested.filter(isOfIt),
    };
  });
  const isOpen = (name: string) =>
    sources.some(({ rescued }) => rescued?.sound === name) ||
    found.some((one) => one.untested.some(({ reference }) => reference === name));
  return {
    leaks: found.flatMap((one) => one.leaks),
    untested: found.flatMap((one) => one.untested),
    tested: sounds.flatMap(({ name }) => (isOpen(name) ? [] : [name])),
  };
}

function wholeTrack(reference: string, track: number): LeakInterval {
  return {
    reference,
    track: track + 1,
    startS: 0,
    endS: Number.MAX_SAFE_INTEGER,
    levelDb: 0,
    offsetMs: 0,
  };
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
