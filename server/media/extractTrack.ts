import { join } from 'node:path';
import { type FoldDown, foldToStereo } from '../../core/audio/foldDown.ts';
import { AudioFile } from './audioFile.ts';
import { once } from './once.ts';
import { losslessly, TakeWriter } from './takeWriter.ts';

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
    const sheet = losslessly(
      { channels: fold ? Math.min(2, channels) : channels, codec },
      `Track ${track + 1}`,
    );
    await TakeWriter.write(path, [sheet], { container: 'wav' }, async (writer) => {
      for await (const planes of file.planes(track))
        await writer.add([fold ? foldToStereo(planes, fold) : planes], planes[0].length);
    });
  } finally {
    file.close();
  }
}
