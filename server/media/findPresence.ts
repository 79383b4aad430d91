import { withFft } from '../../core/measure/fft.ts';
import { lookUp } from '../../core/measure/presence/lookUp.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { AudioFile } from './audioFile.ts';
import { fingerprintsOf } from './fingerprints.ts';
import { type HeardPair, hearPair } from './hearPair.ts';
import { MediaError } from './mediaError.ts';

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
  const pair = {
    reference: { path: request.referencePath, track: request.referenceIndex ?? 0 },
    track: { path: request.trackPath, track: request.trackIndex },
  };
  const begins = request.wholeFile ? await placesOf(pair) : [];
  return withFft(async (makeFft) => {
    for (const beginsS of begins) {
      const found = await hearPair(makeFft, { ...pair, beginsS });
      if (found.present) return found;
    }
    return hearPair(makeFft, { ...pair, beginsS: 0 });
  });
}

async function placesOf({ reference, track }: Omit<HeardPair, 'beginsS'>): Promise<number[]> {
  const sound = await fingerprintsOf(reference.path, [reference.track]);
  const within = await fingerprintsOf(track.path, [track.track]);
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
