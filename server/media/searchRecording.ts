import { SAMPLE_RATE } from '../../core/audio/planes.ts';
import { type MakeFft, withFft } from '../../core/measure/fft.ts';
import { isFewTones } from '../../core/measure/presence/fewTones.ts';
import type { PresenceInterval } from '../../core/measure/presence/intervals.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { findLag } from '../../core/measure/presence/search.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { AudioFile } from './audioFile.ts';
import { monoOf } from './readMono.ts';
import { STEM_RATE, Stem } from './stem.ts';
import type { SurveyedSound } from './surveyRecording.ts';

/** A record that begins at an unknown moment is looked for in stretches of so long (s), which overlap a little. */
const STRETCH_S = 600;
const OVERLAP_S = 30;
/** No more of a reference is looked for at an unknown moment (s). */
const MOST_REFERENCE_S = 1200;
/** So much of a reference is looked at to tell whether it is a few tones (s). */
const FEW_TONES_S = 300;

export interface SearchRequest {
  path: string;
  /** The file that may begin anywhere. */
  file: string;
  /** The tracks to look in, counted from zero. */
  tracks: number[];
}

/** Where a file was found in a track. */
export interface Searched {
  testable: boolean;
  intervals: PresenceInterval[];
}

/** Looks for a file that may begin anywhere in some tracks of a recording, stretch by stretch. @throws {MediaError} */
export async function searchRecording(
  { path, file, tracks }: SearchRequest,
  onProgress: (share: number) => void = () => {},
): Promise<Searched[]> {
  return withFft(async (makeFft) => {
    const reference = await monoFrom(file, 0, 0, MOST_REFERENCE_S);
    const found: Searched[] = [];
    for (const [done, track] of tracks.entries())
      found.push(
        await searchTrack(makeFft, path, track, reference, (share) =>
          onProgress((done + share) / tracks.length),
        ),
      );
    return found;
  });
}

async function searchTrack(
  makeFft: MakeFft,
  path: string,
  track: number,
  reference: Float32Array,
  onProgress: (share: number) => void,
): Promise<Searched> {
  const found: Searched = { testable: false, intervals: [] };
  const lengthS = await lengthOf(path, track);
  for (let fromS = 0; ; fromS += STRETCH_S - OVERLAP_S) {
    const stretch = await monoFrom(path, track, fromS, STRETCH_S);
    if (stretch.length < STEM_RATE) break;
    const lag = findLag(makeFft, reference, stretch);
    const here = surveyAt(makeFft, reference, stretch, lag);
    found.testable ||= here.testable;
    const shiftS = fromS + Math.max(0, lag) / SAMPLE_RATE;
    const offsetMs = 1000 * (fromS + lag / SAMPLE_RATE);
    if (here.present)
      found.intervals.push(
        ...here.intervals.map((one) => ({
          ...one,
          startS: one.startS + shiftS,
          endS: one.endS + shiftS,
          offsetMs: one.offsetMs + offsetMs,
        })),
      );
    onProgress(Math.min(1, (fromS + STRETCH_S) / Math.max(lengthS, 1)));
    if (stretch.length < STRETCH_S * STEM_RATE) break;
  }
  return found;
}

async function lengthOf(path: string, track: number): Promise<number> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  return file.tracks[track].durationS;
}

function surveyAt(makeFft: MakeFft, reference: Float32Array, track: Float32Array, lag: number): Presence {
  const survey = new PresenceSurvey(makeFft, 1, 1);
  const one = reference.subarray(Math.max(0, -lag));
  const other = track.subarray(Math.max(0, lag));
  const frames = Math.min(one.length, other.length);
  survey.add([[one, one]], [[other, other]], frames);
  return survey.results()[0][0];
}

/** Tells whether a reference is nothing but a few steady tones, as far as it is looked at. */
export async function isReferenceFewTones(path: string, reference: SurveyedSound): Promise<boolean> {
  const [file, track] = reference.path === null ? [path, reference.track] : [reference.path, 0];
  const samples = await monoFrom(file, track, 0, FEW_TONES_S);
  return withFft((makeFft) => isFewTones(makeFft, samples));
}

async function monoFrom(path: string, track: number, fromS: number, seconds: number): Promise<Float32Array> {
  const file = await AudioFile.open(path, { allowCut: true });
  try {
    return await monoOf(Stem.of(file, track, { fromS }), { mostFrames: Math.round(seconds * STEM_RATE) });
  } finally {
    file.close();
  }
}
