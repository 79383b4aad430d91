import { setImmediate } from 'node:timers/promises';
import type { AudioTrackInfo } from '../../core/check/recording.ts';
import { type SoundMeasures, SoundMeter } from '../../core/measure/soundMeter.ts';
import { AudioFile, type OpenOptions } from './audioFile.ts';
import { MediaError } from './mediaError.ts';

/** An audio track with what was measured over all of it, at its own rate and with its own channels. */
export interface MeasuredTrack extends AudioTrackInfo, SoundMeasures {}

export interface InspectedMedia {
  tracks: MeasuredTrack[];
}

/**
 * Decodes every audio track of a file from end to end and measures loudness and true peak.
 * @throws {MediaError} when it does not decode, or holds no sound at all (0 seconds)
 */
export async function inspectMedia(
  path: string,
  options: OpenOptions = {},
  onProgress: (share: number) => void = () => {},
): Promise<InspectedMedia> {
  const file = await AudioFile.open(path, options);
  try {
    const tracks: MeasuredTrack[] = [];
    for (const info of file.tracks) tracks.push(await measureTrack(file, info, onProgress));
    if (tracks.every((track) => track.durationS === 0)) {
      throw new MediaError(
        'empty',
        'The file is 0 seconds long: it has an audio track, but no sound in it. Export it again.',
      );
    }
    return { tracks };
  } finally {
    file.close();
  }
}

/** Progress is reported once for so much sound (s). */
const REPORT_S = 5;

async function measureTrack(
  file: AudioFile,
  info: AudioTrackInfo,
  onProgress: (share: number) => void,
): Promise<MeasuredTrack> {
  const meter = new SoundMeter(info.sampleRate, info.channels);
  let frames = 0;
  let reportAt = 0;
  for await (const planes of file.planes(info.index)) {
    meter.add(planes, planes[0].length);
    frames += planes[0].length;
    if (frames < reportAt) continue;
    reportAt = frames + REPORT_S * info.sampleRate;
    const shareOfTrack = Math.min(1, frames / info.sampleRate / Math.max(info.durationS, 0.001));
    onProgress((info.index + shareOfTrack) / file.tracks.length);
    await setImmediate();
  }
  return { ...info, durationS: frames / info.sampleRate, ...meter.result() };
}
