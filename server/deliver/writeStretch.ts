import type { Stereo } from '../../core/audio/planes.ts';
import { toMono } from '../../core/signal/mono.ts';
import { AudioFile } from '../media/audioFile.ts';
import { pass } from '../media/pass.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { TakeWriter } from '../media/takeWriter.ts';

/** A stretch of a track of a recording (counted from zero; s). */
export interface StretchRequest {
  path: string;
  track: number;
  fromS: number;
  lengthS: number;
  outPath: string;
}

/** Writes a stretch of a track, in mono, so that it begins where something begins that was made of the same stretch. */
export async function writeStretch(
  { path, track, fromS, lengthS, outPath }: StretchRequest,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  const file = await AudioFile.open(path, { allowCut: true });
  const stem = Stem.of(file, track, { fromS });
  try {
    await TakeWriter.write(
      outPath,
      [{ name: 'Alone', codec: 'flac', layout: 'mono', channels: undefined }],
      { container: 'flac' },
      (writer) =>
        pass(
          [stem],
          ([[left, right]]: Stereo[], frames) =>
            writer.add([[toMono([left.subarray(0, frames), right.subarray(0, frames)])]], frames),
          { mostFrames: Math.round(lengthS * STEM_RATE), onProgress },
        ),
    );
  } finally {
    await stem.close();
    file.close();
  }
}
