import type { AudioFile } from '../media/audioFile.ts';
import { Resampler } from '../media/resample.ts';
import { STEM_RATE } from '../media/stem.ts';

/** The sound of a track with all of its channels, at 48 kHz. */
export async function* at48k(
  file: AudioFile,
  track: number,
): AsyncGenerator<Float32Array[], void, undefined> {
  const { sampleRate, channels } = file.tracks[track];
  if (sampleRate === STEM_RATE) {
    yield* file.planes(track);
    return;
  }
  // The converter takes one channel or two: of more, each is converted by itself.
  const single = channels > 2;
  const converters = Array.from(
    { length: single ? channels : 1 },
    () => new Resampler(single || channels === 1 ? 1 : 2, sampleRate, STEM_RATE),
  );
  const each = (convert: (converter: Resampler, at: number) => Float32Array[]) => converters.flatMap(convert);
  try {
    for await (const planes of file.planes(track))
      yield each((converter, at) => converter.push(single ? [planes[at]] : [...planes]));
    yield each((converter) => converter.flush());
  } finally {
    for (const converter of converters) converter.close();
  }
}
