import { LoudnessMeter } from '../../core/measure/loudness.ts';
import { AudioFile } from './audioFile.ts';
import { pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';

/** Tracks of a recording (counted from zero), and which part of it counts (s); all of it when left out. */
export interface TrackLoudnessRequest {
  path: string;
  tracks: number[];
  fromS?: number;
  untilS?: number;
}

/**
 * Measures how loud tracks of a recording are while they sound.
 * @returns integrated loudness (LUFS) of each; null for silence
 * @throws {MediaError} when one does not decode
 */
export async function loudnessOfTracks(
  { path, tracks, fromS = 0, untilS = Number.POSITIVE_INFINITY }: TrackLoudnessRequest,
  onProgress: (share: number) => void = () => {},
): Promise<(number | null)[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  const stems = tracks.map((track) => Stem.of(file, track, { fromS }));
  const meters = tracks.map(() => new LoudnessMeter(STEM_RATE, 2));
  try {
    await pass(
      stems,
      (planes, frames) => {
        for (const [at, meter] of meters.entries()) meter.add(planes[at], frames);
      },
      { mostFrames: Math.ceil((untilS - fromS) * STEM_RATE), onProgress },
    );
    return meters.map((meter) => meter.result().integratedLufs);
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    file.close();
  }
}
