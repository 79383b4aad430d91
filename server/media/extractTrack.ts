import { access, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Stereo } from '../../core/engine/planes.ts';
import { AudioFile } from './audioFile.ts';
import { TakeWriter } from './takeWriter.ts';

const extracting = new Map<string, Promise<string>>();

/**
 * Writes one track of a take as a WAV (24-bit PCM; float when the track is float) into a folder, once; later calls
 * find it there.
 * @returns the file's name in the folder
 */
export async function extractTrack(takePath: string, track: number, folder: string): Promise<string> {
  const name = `track-${track + 1}.wav`;
  const path = join(folder, name);
  const isThere = await access(path).then(
    () => true,
    () => false,
  );
  if (isThere) return name;
  const running = extracting.get(path) ?? write(takePath, track, path).finally(() => extracting.delete(path));
  extracting.set(path, running);
  await running;
  return name;
}

async function write(takePath: string, track: number, path: string): Promise<string> {
  const unfinished = `${path}.part`;
  const file = await AudioFile.open(takePath);
  try {
    const { channels, codec } = file.tracks[track];
    const layout = channels === 1 ? 'mono' : 'stereo';
    const sheet = {
      name: `Track ${track + 1}`,
      codec: codec === 'pcm-f32' ? 'pcm-f32' : 'pcm-s24',
      layout,
    } as const;
    const writer = await TakeWriter.create(unfinished, [sheet], { container: 'wav' });
    try {
      for await (const planes of file.planes(track)) {
        const stereo: Stereo = [planes[0], planes[1] ?? planes[0]];
        await writer.add([stereo], planes[0].length);
      }
      await writer.finish();
    } catch (error) {
      await writer.cancel().catch(() => {});
      throw error;
    }
    await rename(unfinished, path);
    return path;
  } catch (error) {
    await rm(unfinished, { force: true });
    throw error;
  } finally {
    file.close();
  }
}
