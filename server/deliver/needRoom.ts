import { statfs } from 'node:fs/promises';
import type { AudioTrackInfo } from '../../core/check/recording.ts';
import { bytesText } from '../../core/words/figures.ts';
import { MediaError } from '../media/mediaError.ts';
import { STEM_RATE } from '../media/stem.ts';

/** So much is left free for whatever else writes (bytes). */
const SPARE_BYTES = 200e6;
/** FLAC mostly takes less than this share of 24 bits. */
const FLAC_SHARE = 0.8;

/**
 * Looks whether a disk has room for what is to be written, before it is begun.
 * @param folder on the disk in question; it exists
 * @throws {MediaError} where there is not
 */
export async function needRoom(folder: string, bytes: number): Promise<void> {
  const { bavail, bsize } = await statfs(folder);
  const freeBytes = Math.max(0, bavail * bsize - SPARE_BYTES);
  if (bytes > freeBytes)
    throw new MediaError(
      'unsupported',
      `About ${bytesText(bytes)} is needed, and ${bytesText(freeBytes)} is free. Free some space on this disk and try again; nothing was written.`,
    );
}

/** How much a track takes when nothing of it is lost (bytes): see `losslessly`. */
export function losslessBytes(
  { channels, codec }: Pick<AudioTrackInfo, 'channels' | 'codec'>,
  lengthS: number,
  format: 'wav' | 'flac' = 'wav',
): number {
  const values = lengthS * STEM_RATE * channels;
  return format === 'flac' ? FLAC_SHARE * 3 * values : (codec === 'pcm-f32' ? 4 : 3) * values;
}
