import type { Stereo } from '../../core/audio/planes.ts';
import { HeldLoudness } from '../../core/deliver/heldLoudness.ts';
import type { UploadMeasures } from '../../core/deliver/records.ts';
import { UPLOAD_LATENCY, UPLOAD_RELEASE_MS, UploadSound } from '../../core/deliver/uploadSound.ts';
import { LoudnessMeter } from '../../core/measure/loudness.ts';
import { type SoundMeasures, SoundMeter } from '../../core/measure/soundMeter.ts';
import { AudioFile } from '../media/audioFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { pass } from '../media/pass.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { TakeWriter, type WrittenTrack } from '../media/takeWriter.ts';

/** A track that goes into an upload (counted from zero), and how loud. */
export interface UploadTrack {
  track: number;
  gainDb: number;
  /** The file that holds it where that is another one than the recording, beginning with it. */
  path?: string | null;
}

/** The sound that an upload is to have. */
export interface UploadAudioRequest {
  path: string;
  tracks: UploadTrack[];
  /** From where on, and how much of it (s of the recording). */
  fromS: number;
  lengthS: number;
  fadeS: number;
  targetLufs: number;
  /** No true peak is above this once it is coded (dBTP). */
  ceilingDbtp: number;
}

/** The video service codes it again, so that as little as possible should be lost here. */
const CODED: WrittenTrack = {
  name: 'Upload',
  codec: 'aac',
  bitrateKbps: 320,
  layout: 'stereo',
  channels: undefined,
};
/** As near to the target as this is near enough (LU); so often it is tried. */
const NEAR_LU = 0.15;
const MOST_TRIES = 5;
/** Where peaks are held down by more than this (dB), how loud it becomes is estimated too coarsely: so much of it (s) is measured. */
const SURE_HELD_DB = 3;
const TRIED_S = 60;
/** The gain is found to this (dB). */
const GAIN_STEP_DB = 0.005;
/** Peaks are held down by no more than this for loudness (dB): beyond, it is crushed, and stays quieter than it was to be. */
const MOST_HELD_DB = 9;
/** Coding brings peaks up again, mostly by less than this; where it is more, they are held down by that and so much more (dB). */
const CODING_DB = 0.8;
/** Coding takes away up to twice as much loudness (LU), or none: this lands in the middle. */
const CODING_LU = 0.04;
const SPARE_DB = 0.2;

/**
 * Mixes, measures and codes the sound of an upload into a file of its own; what was coded is measured, and it is tried again until loudness and
 * peaks are as they are to be.
 * @throws {MediaError} when nothing sounds, or a track does not decode
 */
export async function writeUploadAudio(
  request: UploadAudioRequest,
  outPath: string,
  onProgress: (share: number) => void = () => {},
): Promise<UploadMeasures> {
  const { targetLufs, ceilingDbtp } = request;
  const plain = await measured(request, (share) => onProgress(0.2 * share));
  const [plainLufs, peakDbtp] = [plain.lufs(), plain.peakDbtp()];
  if (plainLufs === null || peakDbtp === null)
    throw new MediaError(
      'no-audio',
      'Nothing sounds in what was chosen. Choose other tracks, or another stretch.',
    );
  const mostGainDb = targetLufs + CODING_LU - plainLufs + MOST_HELD_DB;
  /** How loud it is to be before it is coded, by the estimate. */
  let wantedLufs = targetLufs + CODING_LU;
  let ceiling = ceilingDbtp - CODING_DB;
  let steps = 0;
  const next = () => {
    const from = 1 - 0.6 ** ++steps;
    return (share: number) => onProgress(from + 0.4 * (1 - from) * share);
  };
  for (let tries = 1; ; tries++) {
    let gainDb = gainFor(plain, wantedLufs, ceiling, mostGainDb);
    // Holding peaks down costs loudness, which is made up for before anything is coded: coding takes longest.
    if (tries === 1 && peakDbtp + gainDb > ceiling + SURE_HELD_DB && gainDb < mostGainDb) {
      wantedLufs += await overestimate(request, plain.loudestFrom(TRIED_S), gainDb, ceiling, next());
      gainDb = gainFor(plain, wantedLufs, ceiling, mostGainDb);
    }
    const isLimited = peakDbtp + gainDb > ceiling;
    await coded(request, gainDb, isLimited ? ceiling : null, outPath, next());
    const heard = await measuredFile(outPath, next());
    const missing = targetLufs - (heard.integratedLufs ?? targetLufs);
    const over = (heard.truePeakDbtp ?? Number.NEGATIVE_INFINITY) - ceilingDbtp;
    const isDone = Math.abs(missing) <= NEAR_LU || gainDb === mostGainDb;
    if ((isDone && over <= 0) || tries === MOST_TRIES)
      return { lufs: heard.integratedLufs, truePeakDbtp: heard.truePeakDbtp, gainDb, isLimited };
    wantedLufs += missing;
    if (over > 0) ceiling -= over + SPARE_DB;
  }
}

/** The gain with which a sound is as loud as it is to be, its peaks held down; or the most that it may have (dB). */
function gainFor(sound: HeldLoudness, lufs: number, ceilingDbtp: number, mostGainDb: number): number {
  const at = (gainDb: number) => sound.lufsAt(gainDb, ceilingDbtp, UPLOAD_RELEASE_MS) ?? lufs;
  let [low, high] = [mostGainDb - MOST_HELD_DB - 1, mostGainDb];
  if (at(high) <= lufs) return mostGainDb;
  while (high - low > GAIN_STEP_DB) {
    const middle = (low + high) / 2;
    if (at(middle) < lufs) low = middle;
    else high = middle;
  }
  return high;
}

/** Mixes the sound as it is, and measures it at every gain. */
async function measured(
  request: UploadAudioRequest,
  onProgress: (share: number) => void,
): Promise<HeldLoudness> {
  const meter = new HeldLoudness();
  await mixed(request, 0, null, (planes, frames) => meter.add(planes, frames), onProgress);
  return meter;
}

/** By how much a stretch is less loud than it was estimated to be once its peaks are held down (LU). */
async function overestimate(
  request: UploadAudioRequest,
  startS: number,
  gainDb: number,
  ceilingDbtp: number,
  onProgress: (share: number) => void,
): Promise<number> {
  const lengthS = Math.min(TRIED_S, request.lengthS);
  const stretch = { ...request, fromS: request.fromS + startS, lengthS, fadeS: 0 };
  const meter = new LoudnessMeter(STEM_RATE, 2);
  await mixed(stretch, gainDb, ceilingDbtp, (planes, frames) => meter.add(planes, frames), onProgress);
  const estimated = (await measured(stretch, () => {})).lufsAt(gainDb, ceilingDbtp, UPLOAD_RELEASE_MS);
  const heard = meter.result().integratedLufs;
  return estimated === null || heard === null ? 0 : estimated - heard;
}

/** Mixes the sound and codes it into a file. */
function coded(
  request: UploadAudioRequest,
  gainDb: number,
  ceilingDbtp: number | null,
  outPath: string,
  onProgress: (share: number) => void,
): Promise<void> {
  return TakeWriter.write(outPath, [CODED], {}, (writer) =>
    mixed(request, gainDb, ceilingDbtp, (planes, frames) => writer.add([planes], frames), onProgress),
  );
}

/** Mixes the sound and hands it on, portion by portion. */
async function mixed(
  { path, tracks, fromS, lengthS, fadeS }: UploadAudioRequest,
  gainDb: number,
  ceilingDbtp: number | null,
  visit: (planes: Stereo, frames: number) => void | Promise<void>,
  onProgress: (share: number) => void,
): Promise<void> {
  const files: AudioFile[] = [];
  const stems: Stem[] = [];
  const sound = new UploadSound({
    trackGainsDb: tracks.map((one) => one.gainDb),
    gainDb,
    ceilingDbtp,
    fadeS,
    lengthS,
  });
  const latency = ceilingDbtp === null ? 0 : UPLOAD_LATENCY;
  const wanted = Math.round(lengthS * STEM_RATE);
  let late = latency;
  let given = 0;
  try {
    for (const one of tracks) {
      const file = await AudioFile.open(one.path ?? path, { allowCut: true });
      files.push(file);
      stems.push(Stem.of(file, one.track, { fromS }));
    }
    await pass(
      stems,
      async (planes: Stereo[], frames) => {
        const [left, right] = sound.mix(planes, frames);
        const from = Math.min(late, frames);
        late -= from;
        const count = Math.min(frames - from, wanted - given);
        if (count <= 0) return;
        await visit([left.subarray(from, from + count), right.subarray(from, from + count)], count);
        given += count;
      },
      { mostFrames: wanted + latency, tailFrames: latency, expectedS: lengthS, onProgress },
    );
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    for (const file of files) file.close();
  }
}

async function measuredFile(path: string, onProgress: (share: number) => void): Promise<SoundMeasures> {
  const stem = await Stem.open(path);
  const meter = new SoundMeter(STEM_RATE, 2);
  try {
    await pass([stem], ([planes], frames) => meter.add(planes, frames), { onProgress });
    return meter.result();
  } finally {
    await stem.close();
  }
}
