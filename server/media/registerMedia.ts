import { randomUUID } from 'node:crypto';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Media } from '../../core/records.ts';
import type { ServerContext } from '../context.ts';

/** A recording that was taken in, and how many more audio tracks its file has. */
export interface Registered {
  row: Media;
  otherTracks: number;
}

/**
 * Measures a file of the media folder and lists it as a recording.
 * @param file its name in the folder
 * @throws {MediaError} when it does not decode
 */
export async function registerMedia(
  { media, runner, dataDir }: Pick<ServerContext, 'media' | 'runner' | 'dataDir'>,
  { file, name, allowCut = false }: { file: string; name: string; allowCut?: boolean },
): Promise<Registered> {
  const path = join(dataDir, 'media', file);
  const { tracks } = await runner.run('inspect', { path, allowCut });
  const { codec, channels, sampleRate, durationS, integratedLufs } = tracks[0];
  const { size } = await stat(path);
  const row = media.add({
    id: randomUUID(),
    name,
    file,
    bytes: size,
    codec,
    channels,
    sampleRate,
    durationS,
    integratedLufs,
  });
  return { row, otherTracks: tracks.length - 1 };
}
