import { randomUUID } from 'node:crypto';
import { rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Media } from '../../core/records.ts';
import type { ServerContext } from '../context.ts';

/** A recording that was taken in, and how many more audio tracks its file has. */
export interface Registered {
  row: Media;
  otherTracks: number;
}

/** The name under which a file is written before it is known to be whole and sound. */
export function partOf(file: string): string {
  return `${file}.part`;
}

/**
 * Measures a file that stands in the media folder under its {@link partOf} name, gives it its own name and lists it as a
 * recording.
 * @throws {MediaError} when it does not decode
 */
export async function registerMedia(
  { media, runner, dataDir }: Pick<ServerContext, 'media' | 'runner' | 'dataDir'>,
  {
    file,
    name,
    allowCut = false,
    signal,
  }: { file: string; name: string; allowCut?: boolean; signal?: AbortSignal },
): Promise<Registered> {
  const path = join(dataDir, 'media', file);
  const part = join(dataDir, 'media', partOf(file));
  const { tracks } = await runner.run('inspect', { path: part, allowCut }, { signal });
  const { codec, channels, sampleRate, durationS, integratedLufs } = tracks[0];
  const { size } = await stat(part);
  await rename(part, path);
  const sound = { codec, channels, sampleRate, durationS, integratedLufs };
  try {
    const row = media.add({ id: randomUUID(), name, file, bytes: size, ...sound });
    return { row, otherTracks: tracks.length - 1 };
  } catch (error) {
    await rm(path, { force: true });
    throw error;
  }
}
