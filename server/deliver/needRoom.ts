import { stat, statfs } from 'node:fs/promises';
import { dirname } from 'node:path';
import { bytesText } from '../../core/words/figures.ts';
import { MediaError } from '../media/mediaError.ts';

/** What is about to be written, by what it is made of. */
export interface Needs {
  /** Copies of the recording as it is, and tracks of its sound without loss. */
  copies?: number;
  soundTracks?: number;
  /** How long those are (s); reckoned from the size of the recording when left out. */
  lengthS?: number;
}

/** A track of sound takes no more than so much (bytes a second: floats in stereo at 48 kHz). */
const SOUND_BYTES_A_SECOND = 48_000 * 2 * 4;
/** So much is left free for whatever else writes (bytes). */
const SPARE_BYTES = 200e6;

/**
 * Looks whether there is room for what is to be written, before it is begun.
 * @param place a file or folder on the disk in question, in a folder that exists
 * @throws {MediaError} where there is not
 */
export async function needRoom(
  place: string,
  original: string,
  { copies = 0, soundTracks = 0, lengthS = 0 }: Needs,
): Promise<void> {
  const { size } = await stat(original);
  const needed = copies * size + soundTracks * lengthS * SOUND_BYTES_A_SECOND;
  const { bavail, bsize } = await statfs(dirname(place));
  const free = bavail * bsize - SPARE_BYTES;
  if (needed > free)
    throw new MediaError(
      'unsupported',
      `About ${bytesText(needed)} are needed, and ${bytesText(Math.max(0, free))} are free. Free some space on this disk and try again; nothing was written.`,
    );
}
