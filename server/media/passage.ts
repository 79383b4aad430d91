import { rm } from 'node:fs/promises';
import { newStereo } from '../../core/audio/planes.ts';
import { SoundMeter } from '../../core/measure/soundMeter.ts';
import { AudioFile } from './audioFile.ts';
import { MediaError } from './mediaError.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { TakeWriter } from './takeWriter.ts';

/** A passage to listen to: where it begins and how long it is (s), and of which track (counted from zero). */
export interface PassageRequest {
  path: string;
  track: number;
  fromS: number;
  seconds: number;
  /** The WAV to write. */
  outPath: string;
}

/** All passages are as loud as this (LUFS), so that they can be compared; but none has a higher peak than −1 dBTP. */
const LOUDNESS_LUFS = -23;
const PEAK_DBTP = -1;
/** No passage is raised by more (dB): silence stays silent. */
const MOST_DB = 40;

/**
 * Writes a passage of a track as a stereo WAV (16-bit PCM), as loud as every other passage.
 * @throws {MediaError} when it does not decode, or has no such track
 */
export async function writePassage({
  path,
  track,
  fromS,
  seconds,
  outPath,
}: PassageRequest): Promise<undefined> {
  const file = await AudioFile.open(path, { allowCut: true });
  try {
    if (!file.tracks[track]) throw new MediaError('no-audio', `There is no audio track ${track + 1}.`);
    const frames = Math.round(seconds * STEM_RATE);
    const planes = newStereo(frames);
    const stem = Stem.of(file, track, { fromS: Math.max(0, fromS) });
    // What would be before the file's beginning is silent.
    const silent = Math.min(frames, Math.round(Math.max(0, -fromS) * STEM_RATE));
    await stem.read([planes[0].subarray(silent), planes[1].subarray(silent)], frames - silent);
    await stem.close();
    const meter = new SoundMeter(STEM_RATE, 2);
    meter.add(planes, frames);
    const { integratedLufs, truePeakDbtp } = meter.result();
    const gainDb =
      integratedLufs === null || truePeakDbtp === null
        ? 0
        : Math.min(LOUDNESS_LUFS - integratedLufs, PEAK_DBTP - truePeakDbtp, MOST_DB);
    const gain = 10 ** (gainDb / 20);
    for (const plane of planes) for (let i = 0; i < frames; i++) plane[i] *= gain;
    const writer = await TakeWriter.create(
      outPath,
      [{ name: 'Passage', codec: 'pcm-s16', layout: 'stereo' }],
      { container: 'wav' },
    );
    try {
      await writer.add([planes], frames);
      await writer.finish();
    } catch (error) {
      await writer.cancel().catch(() => {});
      await rm(outPath, { force: true });
      throw error;
    }
  } finally {
    file.close();
  }
}
