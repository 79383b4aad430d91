import { SAMPLE_RATE } from '../../core/audio/planes.ts';
import {
  type LeakInterval,
  type UntestedPair,
  type Verification,
  verdictOf,
} from '../../core/check/verification.ts';
import { type MakeFft, withFft } from '../../core/measure/fft.ts';
import { isFewTones } from '../../core/measure/presence/fewTones.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { findLag } from '../../core/measure/presence/search.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { AudioFile } from './audioFile.ts';
import { surveyPair } from './findPresence.ts';
import { MediaError } from './mediaError.ts';
import { pass, skip } from './pass.ts';
import { monoOf } from './readMono.ts';
import { STEM_RATE, Stem } from './stem.ts';

/** A sound that must not be in a track: another track of the recording (counted from zero), or a file. */
export interface Reference {
  name: string;
  track: number | null;
  path: string | null;
  /** The tracks that it must not be in, counted from zero. */
  forbiddenIn: number[];
}

/** A record that begins at an unknown moment is looked for in stretches of so long (s), which overlap a little. */
const STRETCH_S = 600;
const OVERLAP_S = 30;
/** No more of a reference is looked for at an unknown moment (s). */
const MOST_REFERENCE_S = 1200;
/** So much of a reference is looked at to tell whether it is a few tones (s). */
const FEW_TONES_S = 300;
/** Stretches that are this near belong together (s), and offsets (ms). */
const NEAR_S = 5;
const SAME_OFFSET_MS = 5;

/**
 * Looks in a recording for every reference in each track that it must not be in: tracks of the recording itself and files that go
 * along with it from its start, then files that may begin anywhere.
 * @throws {MediaError} when a file does not decode, or has no such track
 */
export async function verifyRecording(
  path: string,
  references: Reference[],
  onProgress: (share: number) => void = () => {},
): Promise<Verification> {
  const file = await AudioFile.open(path, { allowCut: true });
  const count = file.tracks.length;
  file.close();
  for (const track of references.flatMap((one) => [
    ...(one.track === null ? [] : [one.track]),
    ...one.forbiddenIn,
  ]))
    if (track >= count || track < 0)
      throw new MediaError(
        'no-audio',
        `There is no audio track ${track + 1}; the file has ${count}. Choose tracks from 1 to ${count}.`,
      );
  return withFft((makeFft) => verifyWith(makeFft, path, references, onProgress));
}

async function verifyWith(
  makeFft: MakeFft,
  path: string,
  references: Reference[],
  onProgress: (share: number) => void,
): Promise<Verification> {
  const tracks = [...new Set(references.flatMap(({ forbiddenIn }) => forbiddenIn))].sort((a, b) => a - b);
  const along = await alongside(makeFft, path, references, tracks, (share) => onProgress(share / 2));
  const leaks: LeakInterval[] = [];
  const untested: UntestedPair[] = [];
  const searched = references.map(({ path: file }) => file !== null);
  const pairs = references.flatMap((reference, r) =>
    reference.forbiddenIn.map((track) => ({ reference, r, track, found: along[r][tracks.indexOf(track)] })),
  );
  const drones = new Map<number, Promise<boolean>>();
  const isDrone = (r: number) => {
    const known = drones.get(r) ?? fewTones(makeFft, path, references[r]);
    drones.set(r, known);
    return known;
  };
  for (const [done, { reference, r, track, found }] of pairs.entries()) {
    let presence = found;
    if (presence.present && presence.heardShare < 1 && presence.offsetMs !== null)
      presence = await closer(makeFft, path, reference, track, presence);
    let intervals = presence.intervals;
    let isTestable = presence.testable;
    if (!presence.present && searched[r] && reference.path !== null) {
      const anywhere = await searchedFor(makeFft, path, reference.path, track);
      intervals = anywhere.intervals;
      isTestable = isTestable || anywhere.testable;
    }
    const name = reference.name;
    leaks.push(...joined(intervals).map((one) => ({ reference: name, track: track + 1, ...one })));
    if (intervals.length === 0) {
      const reason = isTestable
        ? (await isDrone(r))
          ? 'the reference is a few steady tones, of which nobody can tell where they come from'
          : null
        : 'the reference is silent, or too short to compare';
      if (reason) untested.push({ reference: name, track: track + 1, reason });
    }
    onProgress(0.5 + (done + 1) / (2 * pairs.length));
  }
  return {
    verdict: verdictOf(leaks, untested),
    leaks: leaks.sort((a, b) => a.track - b.track || a.startS - b.startS),
    untested,
  };
}

function openReference(path: string, { track, path: file }: Reference): Promise<Stem> {
  return file === null
    ? Stem.open(path, track ?? 0, { allowCut: true })
    : Stem.open(file, 0, { allowCut: true });
}

/** All references beside all tracks, from the start of both, in one pass. */
async function alongside(
  makeFft: MakeFft,
  path: string,
  references: Reference[],
  tracks: number[],
  onProgress: (share: number) => void,
): Promise<Presence[][]> {
  const survey = new PresenceSurvey(makeFft, references.length, tracks.length);
  const stems: Stem[] = [];
  try {
    for (const track of tracks) stems.push(await Stem.open(path, track, { allowCut: true }));
    const expectedS = Math.max(...stems.map((stem) => stem.expectedS));
    for (const reference of references) stems.push(await openReference(path, reference));
    await pass(
      stems,
      (planes, frames) => survey.add(planes.slice(tracks.length), planes.slice(0, tracks.length), frames),
      { expectedS, mostFrames: Math.ceil(expectedS * STEM_RATE) + STEM_RATE, onProgress },
    );
    return survey.results();
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
  }
}

/** Whether a reference is nothing but a few steady tones, as far as it is looked at. */
async function fewTones(makeFft: MakeFft, path: string, reference: Reference): Promise<boolean> {
  const [file, track] = reference.path === null ? [path, reference.track ?? 0] : [reference.path, 0];
  return isFewTones(makeFft, await monoFrom(file, track, 0, FEW_TONES_S));
}

/** Looks again at one pair, around the offset that was found: quieter stretches are seen then. */
async function closer(
  makeFft: MakeFft,
  path: string,
  reference: Reference,
  track: number,
  first: Presence,
): Promise<Presence> {
  const request = {
    referencePath: reference.path ?? path,
    referenceIndex: reference.path === null ? (reference.track ?? 0) : 0,
    trackPath: path,
    trackIndex: track,
  };
  const around = ((first.offsetMs ?? 0) / 1000) * STEM_RATE;
  const second = await surveyPair(makeFft, request, 0, around, { allowCut: true });
  return second.present ? second : first;
}

/** Looks for a file that may begin anywhere in a track, stretch by stretch. */
async function searchedFor(
  makeFft: MakeFft,
  path: string,
  file: string,
  track: number,
): Promise<{ testable: boolean; intervals: Presence['intervals'] }> {
  const reference = await monoFrom(file, 0, 0, MOST_REFERENCE_S);
  const intervals: Presence['intervals'] = [];
  let testable = false;
  for (let fromS = 0; ; fromS += STRETCH_S - OVERLAP_S) {
    const stretch = await monoFrom(path, track, fromS, STRETCH_S);
    if (stretch.length < STEM_RATE) break;
    const lag = findLag(makeFft, reference, stretch);
    const found = surveyAt(makeFft, reference, stretch, lag);
    testable ||= found.testable;
    const shiftS = fromS + Math.max(0, lag) / SAMPLE_RATE;
    const offsetMs = 1000 * (fromS + lag / SAMPLE_RATE);
    if (found.present)
      intervals.push(
        ...found.intervals.map((one) => ({
          ...one,
          startS: one.startS + shiftS,
          endS: one.endS + shiftS,
          offsetMs: one.offsetMs + offsetMs,
        })),
      );
    if (stretch.length < STRETCH_S * STEM_RATE) break;
  }
  return { testable, intervals };
}

function surveyAt(makeFft: MakeFft, reference: Float32Array, track: Float32Array, lag: number): Presence {
  const survey = new PresenceSurvey(makeFft, 1, 1);
  const one = reference.subarray(Math.max(0, -lag));
  const other = track.subarray(Math.max(0, lag));
  const frames = Math.min(one.length, other.length);
  survey.add([[one, one]], [[other, other]], frames);
  return survey.results()[0][0];
}

async function monoFrom(path: string, track: number, fromS: number, seconds: number): Promise<Float32Array> {
  const stem = await Stem.open(path, track, { allowCut: true });
  try {
    await skip(stem, Math.round(fromS * STEM_RATE));
    return await monoOf(stem, { mostFrames: Math.round(seconds * STEM_RATE) });
  } finally {
    await stem.close();
  }
}

/** Joins stretches that lie close together at one offset. */
function joined(intervals: Presence['intervals']): Presence['intervals'] {
  const whole: Presence['intervals'] = [];
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
