import type { Stereo } from '../../core/audio/planes.ts';
import { withFft } from '../../core/measure/fft.ts';
import type { LagTrend } from '../../core/measure/presence/intervals.ts';
import type { PairState } from '../../core/measure/presence/pair.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { HOP_FRAMES } from '../../core/measure/presence/windows.ts';
import { AudioFile } from './audioFile.ts';
import { pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { UntilDamage } from './untilDamage.ts';

/** A part of a file: a track of it (counted from zero), from some time on (s). */
export interface Piece {
  track: number;
  fromS: number;
}

/** A sound that is looked for: a track of the recording (counted from zero), or a file that goes along with it, or a part of one. */
export type SurveyedSound = { track: number; path: null } | { track: null; path: string; piece?: Piece };

/** Where a sound that is looked for in a recording is: the file, and which part of it. */
export function placeOf(recording: string, sound: SurveyedSound): Piece & { path: string } {
  if (sound.path === null) return { path: recording, track: sound.track, fromS: 0 };
  return { path: sound.path, ...(sound.piece ?? { track: 0, fromS: 0 }) };
}

/** A pair that is looked at: the place of its reference and of its track in the lists, and its lags where they are known. */
export interface SurveyedPair {
  reference: number;
  track: number;
  around: LagTrend | null;
}

/** A part of a recording is surveyed: from one window (2.5 s each) up to another, or to the end. */
export interface SurveyRequest {
  path: string;
  references: SurveyedSound[];
  tracks: number[];
  pairs: SurveyedPair[];
  fromWindow: number;
  untilWindow: number | null;
}

/** What was gathered of each pair, in the order in which they were asked for; and where the part ends (frames). */
export interface SurveyPart {
  states: PairState[];
  /** What is wrong with the file of each reference; null where it was read to its end. */
  problems: (string | null)[];
  endFrames: number;
}

/**
 * Looks for references in tracks over a part of a recording, all in one pass; each track is decoded once, whatever it is looked at for.
 * @throws {MediaError} where something does not decode
 */
export async function surveyRecording(
  { path, references, tracks, pairs, fromWindow, untilWindow }: SurveyRequest,
  onProgress: (share: number) => void = () => {},
): Promise<SurveyPart> {
  const fromS = (fromWindow * HOP_FRAMES) / STEM_RATE;
  const file = await AudioFile.open(path, { allowCut: true });
  const own = [
    ...new Set([...tracks, ...references.flatMap(({ track }) => (track === null ? [] : [track]))]),
  ];
  const others = new Map<string, AudioFile>();
  const stems: (Stem | UntilDamage)[] = own.map((track) => Stem.of(file, track, { fromS }));
  const places: number[] = [];
  try {
    for (const reference of references) {
      if (reference.track !== null) places.push(own.indexOf(reference.track));
      else {
        const place = placeOf(path, reference);
        const other = others.get(place.path) ?? (await AudioFile.open(place.path, { allowCut: true }));
        others.set(place.path, other);
        const stem = Stem.of(other, place.track, { fromS: place.fromS + fromS });
        places.push(stems.push(new UntilDamage(stem)) - 1);
      }
    }
    const lengthS = Math.max(...tracks.map((track) => file.tracks[track].durationS)) - fromS;
    // The last part goes on as long as the tracks do: what a damaged file says of its length may be too short.
    const mostFrames =
      untilWindow === null ? Number.POSITIVE_INFINITY : (untilWindow + 1 - fromWindow) * HOP_FRAMES;
    return await withFft(async (makeFft) => {
      const at = new Map(pairs.map((pair) => [`${pair.reference} ${pair.track}`, pair]));
      const survey = new PresenceSurvey(makeFft, references.length, tracks.length, {
        firstWindow: fromWindow,
        trackOf: (reference) => placeIn(tracks, references[reference].track),
        isWanted: (reference, track) => at.has(`${reference} ${track}`),
        around: (reference, track) => at.get(`${reference} ${track}`)?.around ?? null,
      });
      const frames = await pass(
        stems,
        (planes: Stereo[], count) =>
          survey.add(
            places.map((place) => planes[place]),
            tracks.map((track) => planes[own.indexOf(track)]),
            count,
          ),
        {
          mostFrames,
          deciding: own.length,
          expectedS: Math.min(lengthS, mostFrames / STEM_RATE),
          onProgress,
        },
      );
      const states = survey.states();
      return {
        states: pairs.map(({ reference, track }) => states[reference][track]),
        problems: places.map((place) => {
          const stem = stems[place];
          return stem instanceof UntilDamage ? stem.problem : null;
        }),
        // A part that begins beyond the end of a recording that was cut off says nothing of where that is.
        endFrames: frames > 0 ? fromWindow * HOP_FRAMES + frames : 0,
      };
    });
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    for (const one of [file, ...others.values()]) one.close();
  }
}

function placeIn(tracks: number[], track: number | null): number | null {
  return track !== null && tracks.includes(track) ? tracks.indexOf(track) : null;
}
