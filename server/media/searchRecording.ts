import { withFft } from '../../core/measure/fft.ts';
import { FewTonesMeter } from '../../core/measure/presence/fewTones.ts';
import type { Fingerprint } from '../../core/measure/presence/fingerprint.ts';
import { lookUp, PASSAGE_S, type Place } from '../../core/measure/presence/lookUp.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { AudioFile } from './audioFile.ts';
import { firstOf, type HeardSound, hearPair } from './hearPair.ts';
import { keptPrint } from './keptPrints.ts';
import { MediaError } from './mediaError.ts';
import { PassageReader } from './passageReader.ts';
import { monoOfStretch } from './readMono.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { placeOf, type SurveyedSound } from './surveyRecording.ts';
import { UntilDamage } from './untilDamage.ts';

/** So much of a reference is looked at to tell whether it is a few tones (s). */
const FEW_TONES_S = 300;
/** The first of its stretches: most sounds show by then that they are more; each is twice as long as the one before. */
const FIRST_STRETCH_S = 4;
/** The fingerprints of so many files are held at a time. */
const FILES_AT_ONCE = 32;
/** A passage is listened to with so much before and after it (s). */
const MARGIN_S = 2.5;
/** What is done of looking up once the files are read. */
const READ_SHARE = 0.7;

/** Files to look up in tracks of a recording, each in some of them (by their place in the list). */
export interface LookUpRequest {
  tracks: Fingerprint[];
  files: { path: string; tracks: number[] }[];
  /** A folder in which the fingerprints of files are kept; null keeps none. */
  keepIn: string | null;
}

/** Where a file may be: the places in each track that was asked for; or why it could not be read to its end. */
export interface LookedUp {
  /** How long it sounds (s): see {@link Fingerprint}. */
  soundingS: number;
  places: Place[][];
  problem: string | null;
}

/** Looks up files that may begin anywhere in a recording, by their fingerprints. A file that does not decode is said to be so. */
export async function lookUpFiles(
  { tracks, files, keepIn }: LookUpRequest,
  onProgress: (share: number) => void = () => {},
): Promise<LookedUp[]> {
  const found: LookedUp[] = [];
  for (let from = 0; from < files.length; from += FILES_AT_ONCE) {
    const batch = files.slice(from, from + FILES_AT_ONCE);
    const shareOf = (share: number) => onProgress((from + share * batch.length) / files.length);
    found.push(...(await lookUpBatch({ tracks, files: batch, keepIn }, shareOf)));
  }
  return found;
}

async function lookUpBatch(
  { tracks, files, keepIn }: LookUpRequest,
  onProgress: (share: number) => void,
): Promise<LookedUp[]> {
  const prints: (Fingerprint | null)[] = [];
  const found: LookedUp[] = [];
  for (const [at, file] of files.entries()) {
    const { print, problem } = await printOf(file.path, keepIn, (share) =>
      onProgress((READ_SHARE * (at + share)) / files.length),
    );
    prints.push(print);
    found.push({ soundingS: print?.soundingS ?? 0, places: file.tracks.map(() => []), problem });
  }
  await withFft(async (makeFft) => {
    for (const [track, within] of tracks.entries()) {
      const wanted = files.flatMap((file, at) => {
        const place = file.tracks.indexOf(track);
        const print = prints[at];
        return place < 0 || print === null ? [] : [{ at, place, print }];
      });
      const shareOf = (share: number) =>
        onProgress(READ_SHARE + ((1 - READ_SHARE) * (track + share)) / tracks.length);
      const places = lookUp(
        makeFft,
        within,
        wanted.map(({ print }) => print),
        shareOf,
      );
      wanted.forEach(({ at, place }, index) => {
        found[at].places[place] = places[index];
      });
    }
  });
  return found;
}

async function printOf(
  path: string,
  keepIn: string | null,
  onProgress: (share: number) => void,
): Promise<{ print: Fingerprint | null; problem: string | null }> {
  try {
    return await keptPrint(path, keepIn, onProgress);
  } catch (error) {
    if (error instanceof MediaError) return { print: null, problem: error.message };
    throw error;
  }
}

/** Places to listen to: where a file may be in tracks of a recording (counted from zero), and all of it or only the passage that suggests it. */
export interface ListenRequest {
  path: string;
  recording: string;
  places: { track: number; beginsS: number; passageS: number | null }[];
}

/** Listens to places where a file may be. @returns what was found at each @throws {MediaError} where the recording does not decode */
export async function listenAt(
  { path, recording, places }: ListenRequest,
  onProgress: (share: number) => void = () => {},
): Promise<Presence[]> {
  const files: AudioFile[] = [];
  const opened = async (from: string) => {
    const file = await AudioFile.open(from, { allowCut: true });
    files.push(file);
    return file;
  };
  let passages: PassageReader | null = null;
  try {
    const [file, within] = [await opened(path), await opened(recording)];
    const sound: HeardSound = { from: (fromS) => new UntilDamage(Stem.of(file, 0, { fromS })) };
    passages = new PassageReader(sound, PASSAGE_S + 2 * MARGIN_S);
    const asked = places.map(({ track, beginsS, passageS }, at) => {
      const passage =
        passageS === null
          ? undefined
          : { fromS: Math.max(0, passageS - MARGIN_S), lengthS: PASSAGE_S + 2 * MARGIN_S };
      const heard: HeardSound = { from: (fromS) => Stem.of(within, track, { fromS }) };
      return { at, track: heard, beginsS, passage, firstS: firstOf(beginsS, passage) };
    });
    const found = new Array<Presence>(places.length);
    const inOrder = asked.sort((a, b) => a.firstS - b.firstS);
    for (const [done, { at, track, beginsS, passage, firstS }] of inOrder.entries()) {
      const reference = passage ? await passages.passage(firstS) : sound;
      const shareOf = (share: number) => onProgress((done + share) / places.length);
      found[at] = await withFft((makeFft) =>
        hearPair(makeFft, { reference, track, beginsS }, { passage, onProgress: shareOf }),
      );
    }
    return found;
  } finally {
    await passages?.close();
    for (const file of files) file.close();
  }
}

/** Tells whether a reference is nothing but a few steady tones; it is read until it is not, or for so long. */
export async function isReferenceFewTones(path: string, reference: SurveyedSound): Promise<boolean> {
  const place = placeOf(path, reference);
  return withFft(async (makeFft) => {
    const meter = new FewTonesMeter(makeFft);
    for (let fromS = 0, lengthS = FIRST_STRETCH_S; fromS < FEW_TONES_S && !meter.isMore; lengthS *= 2) {
      const samples = await monoOfStretch({ ...place, fromS: place.fromS + fromS, lengthS });
      meter.add(samples);
      if (samples.length < lengthS * STEM_RATE) break;
      fromS += lengthS;
    }
    return meter.result();
  });
}
