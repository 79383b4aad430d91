import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { joinedPortions } from '../../core/audio/planes.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { codedSound, PERIOD_FRAMES } from '../../core/sounding/code.ts';
import { codedSources } from '../../core/sounding/compare.ts';
import type { CodedSource } from '../../core/sounding/read.ts';
import type { RecordedTrack } from '../../core/sounding/sounding.ts';
import { AudioFile } from './audioFile.ts';
import { MediaError } from './mediaError.ts';
import { pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { TakeWriter } from './takeWriter.ts';

/** No more than this is read of a recording of test sounds (s). */
export const MOST_SOUNDING_S = 120;

/** Writes the test sound of a source as a WAV file. */
export async function writeCode({ id, sides }: CodedSource, path: string): Promise<void> {
  const planes = codedSound(id, sides);
  const writer = await TakeWriter.create(
    path,
    [{ name: id, codec: 'pcm-s24', layout: sides === 'mono' ? 'mono' : 'stereo' }],
    { container: 'wav' },
  );
  for (let at = 0; at < planes[0].length; at += PERIOD_FRAMES)
    await writer.add([planes.map((plane) => plane.subarray(at, at + PERIOD_FRAMES))], PERIOD_FRAMES);
  await writer.finish();
}

/** Writes the test sound of each source of a setup into a folder. @returns their names, by source */
export async function writeCodes(setup: Setup, folder: string): Promise<{ source: string; file: string }[]> {
  await mkdir(folder, { recursive: true });
  const files: { source: string; file: string }[] = [];
  for (const source of codedSources(setup)) {
    const file = `${source.id}.wav`;
    await writeCode(source, join(folder, file));
    files.push({ source: source.id, file });
  }
  return files;
}

/**
 * Reads every audio track of a recording whole, at 48 kHz, mono or stereo; of a longer one its beginning.
 * @throws {MediaError} when it does not decode, or is shorter than a test sound
 */
export async function readSoundedTracks(path: string): Promise<RecordedTrack[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  try {
    const tracks: RecordedTrack[] = [];
    for (const { index, name, channels, codec } of file.tracks)
      tracks.push({
        name,
        isLossy: !codec.startsWith('pcm') && codec !== 'flac',
        channels: await wholeTrack(file, index, Math.min(2, channels)),
      });
    if (tracks.every(({ channels }) => channels[0].length < PERIOD_FRAMES))
      throw new MediaError(
        'empty',
        `The recording is shorter than one test sound (${PERIOD_FRAMES / STEM_RATE} s). Record half a minute while the test sounds play.`,
      );
    return tracks;
  } finally {
    file.close();
  }
}

async function wholeTrack(file: AudioFile, index: number, channels: number): Promise<Float32Array[]> {
  const stem = Stem.of(file, index);
  const portions: Float32Array[][] = [];
  try {
    await pass(
      [stem],
      ([sides], count) => {
        portions.push(sides.slice(0, channels).map((side) => side.slice(0, count)));
      },
      { mostFrames: MOST_SOUNDING_S * STEM_RATE },
    );
    return Array.from({ length: channels }, (_, channel) =>
      joinedPortions(portions.map((portion) => portion[channel])),
    );
  } finally {
    await stem.close();
  }
}
