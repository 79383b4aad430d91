import { type Loudness, LoudnessMeter } from '../../core/measure/loudness.ts';
import { TruePeakMeter } from '../../core/measure/truePeak.ts';
import { toDb } from '../../core/signal/decibel.ts';
import { AudioFile, type AudioTrackInfo, type OpenOptions } from './audioFile.ts';
import { MediaError } from './mediaError.ts';

/** An audio track with what was measured over all of it, at its own rate and with its own channels. */
export interface MeasuredTrack extends AudioTrackInfo, Loudness {
  truePeakDbtp: number | null;
}

export interface InspectedMedia {
  tracks: MeasuredTrack[];
}

/**
 * Decodes every audio track of a file from end to end and measures loudness and true peak.
 * @throws {MediaError} when it does not decode, or holds no sound at all (0 seconds)
 */
export async function inspectMedia(path: string, options: OpenOptions = {}): Promise<InspectedMedia> {
  const file = await AudioFile.open(path, options);
  try {
    const tracks: MeasuredTrack[] = [];
    for (const info of file.tracks) tracks.push(await measureTrack(file, info));
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

async function measureTrack(file: AudioFile, info: AudioTrackInfo): Promise<MeasuredTrack> {
  const loudness = new LoudnessMeter(info.sampleRate, info.channels);
  const peaks = Array.from({ length: info.channels }, () => new TruePeakMeter());
  let frames = 0;
  for await (const planes of file.planes(info.index)) {
    const count = planes[0].length;
    loudness.add(planes, count);
    planes.forEach((plane, channel) => {
      peaks[channel]?.add(plane);
    });
    frames += count;
  }
  const peak = Math.max(...peaks.map((meter) => meter.peak()));
  return {
    ...info,
    durationS: frames / info.sampleRate,
    ...loudness.result(),
    truePeakDbtp: peak > 0 ? toDb(peak) : null,
  };
}
