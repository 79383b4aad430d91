import { AudioFile } from '../media/audioFile.ts';
import { pass } from '../media/pass.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { losslessly, TakeWriter } from '../media/takeWriter.ts';

/** A track that may be longer than this is written as RF64 (s): floats in stereo pass 4 GB after three hours. */
const LARGE_S = 2 * 3600;

/** Parts of a track (WAV, at 48 kHz), in their order, and the file that is to hold all of it. */
export interface PartsRequest {
  paths: string[];
  outPath: string;
}

/** How a track of so many seconds is written as WAV. */
export function wavOf(seconds: number) {
  return { container: 'wav', isLarge: seconds > LARGE_S } as const;
}

/** Writes parts of a track one behind the other, as they are. @throws {MediaError} where one cannot be read */
export async function joinParts(
  { paths, outPath }: PartsRequest,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  const files: AudioFile[] = [];
  try {
    for (const path of paths) files.push(await AudioFile.open(path));
    const seconds = files.reduce((sum, { tracks }) => sum + tracks[0].durationS, 0);
    const sheet = losslessly(files[0].tracks[0], 'Whole');
    await TakeWriter.write(outPath, [sheet], wavOf(seconds), async (writer) => {
      let done = 0;
      for (const file of files) {
        const stem = Stem.of(file, 0);
        await pass([stem], async ([planes], frames) => {
          await writer.add([planes], frames);
          done += frames;
          onProgress(Math.min(1, done / STEM_RATE / seconds));
        }).finally(() => stem.close());
      }
    });
  } finally {
    for (const file of files) file.close();
  }
}
