import { join } from 'node:path';
import { type FoldDown, foldToStereo } from '../../core/audio/foldDown.ts';
import { channelsOf } from '../../core/setup/channels.ts';
import { AudioFile } from './audioFile.ts';
import { once } from './once.ts';
import { TakeWriter } from './takeWriter.ts';

/**
 * Writes one track of a take as a WAV (24-bit PCM; float when the track is float) into a folder, once; later calls
 * find it there. With a fold-down, what is written is stereo.
 * @returns the file's name in the folder
 */
export async function extractTrack(
  takePath: string,
  track: number,
  folder: string,
  fold?: FoldDown,
): Promise<string> {
  const name = fold ? `track-${track + 1}-stereo.wav` : `track-${track + 1}.wav`;
  await once(join(folder, name), (part) => write(takePath, track, part, fold));
  return name;
}

async function write(takePath: string, track: number, path: string, fold?: FoldDown): Promise<void> {
  const file = await AudioFile.open(takePath);
  try {
    const { channels, codec } = file.tracks[track];
    const isMany = channels > 2 && !fold;
    const layout = channels === 1 ? 'mono' : isMany ? 'multichannel' : 'stereo';
    const sheet = {
      name: `Track ${track + 1}`,
      codec: codec === 'pcm-f32' ? 'pcm-f32' : 'pcm-s24',
      layout,
      channels: isMany ? channelsOf(channels) : undefined,
    } as const;
    const writer = await TakeWriter.create(path, [sheet], { container: 'wav' });
    try {
      for await (const planes of file.planes(track)) {
        await writer.add([fold ? foldToStereo(planes, fold) : planes], planes[0].length);
      }
      await writer.finish();
    } catch (error) {
      await writer.cancel().catch(() => {});
      throw error;
    }
  } finally {
    file.close();
  }
}
