import { withFft } from '../../core/measure/fft.ts';
import { lookUp } from '../../core/measure/presence/lookUp.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { AudioFile } from './audioFile.ts';
import { fingerprintsOf } from './fingerprints.ts';
import { hearPair } from './hearPair.ts';
import { MediaError } from './mediaError.ts';
import { Stem } from './stem.ts';

export interface PresenceRequest {
  referencePath: string;
  trackPath: string;
  /** Counted from zero over the audio tracks of each file. */
  referenceIndex?: number;
  trackIndex: number;
  /** Looks for the reference at any offset. */
  wholeFile: boolean;
}

/** So many places are listened to before a sound is called absent. */
const MOST_PLACES = 8;

/**
 * Looks for the sound of one file in a track of another.
 * @throws {MediaError} when a file does not decode, or has no such track
 */
export async function findPresence(request: PresenceRequest): Promise<Presence> {
  await requireTrack(request.trackPath, request.trackIndex);
  const begins = request.wholeFile ? await placesOf(request) : [];
  const files: AudioFile[] = [];
  const heard = async (path: string, track: number) => {
    const file = await AudioFile.open(path);
    files.push(file);
    return { from: (fromS: number) => Stem.of(file, track, { fromS }) };
  };
  try {
    const reference = await heard(request.referencePath, request.referenceIndex ?? 0);
    const track = await heard(request.trackPath, request.trackIndex);
    return await withFft(async (makeFft) => {
      for (const beginsS of begins) {
        const found = await hearPair(makeFft, { reference, track, beginsS });
        if (found.present) return found;
      }
      return hearPair(makeFft, { reference, track, beginsS: 0 });
    });
  } finally {
    for (const file of files) file.close();
  }
}

async function placesOf({
  referencePath,
  referenceIndex = 0,
  trackPath,
  trackIndex,
}: PresenceRequest): Promise<number[]> {
  const sound = await fingerprintsOf(referencePath, [referenceIndex]);
  const within = await fingerprintsOf(trackPath, [trackIndex]);
  const [places] = await withFft((makeFft) => lookUp(makeFft, within.prints[0], sound.prints));
  return places.slice(0, MOST_PLACES).map(({ beginsS }) => beginsS);
}

async function requireTrack(path: string, index: number): Promise<void> {
  const file = await AudioFile.open(path);
  const count = file.tracks.length;
  file.close();
  if (index >= count)
    throw new MediaError(
      'no-audio',
      `There is no audio track ${index + 1}; the file has ${count}. Choose a track from 1 to ${count}.`,
    );
}
