import { copyFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Stereo } from '../../core/audio/planes.ts';
import type { Canvas } from '../../core/demo/canvas.ts';
import { DEMO_HUMMING, DEMO_SOUNDS, DEMO_VOICES } from '../../core/demo/sounds.ts';
import { Stem } from './stem.ts';
import { TakeWriter } from './takeWriter.ts';

/** Which of the demo's sounds is made, and where. */
export interface DemoSoundRequest {
  /** The file name of one of {@link DEMO_RECORDINGS}. */
  file: string;
  path: string;
  /** The folder of the voices that are shipped. */
  voicesDir: string;
}

/** Every recording of the demo, by the file that it goes into. */
export const DEMO_RECORDINGS: { file: string; name: string }[] = [
  ...DEMO_VOICES,
  ...DEMO_SOUNDS,
  DEMO_HUMMING,
];

/** Writes one of the demo's sounds to a file. */
export async function writeDemoSound({ file, path, voicesDir }: DemoSoundRequest): Promise<void> {
  const sound = DEMO_SOUNDS.find((one) => one.file === file);
  if (sound) await writeFlac(path, sound.make());
  else if (file === DEMO_HUMMING.file)
    await writeFlac(path, await together(join(voicesDir, DEMO_HUMMING.voice), DEMO_HUMMING.make()));
  else await copyFile(join(voicesDir, file), path);
}

/** Adds a recording to a sound. */
async function together(path: string, { left, right }: Canvas): Promise<Canvas> {
  const voice: Stereo = [new Float32Array(left.length), new Float32Array(right.length)];
  const stem = await Stem.open(path);
  await stem.read(voice, left.length);
  await stem.close();
  return {
    left: left.map((value, i) => value + voice[0][i]),
    right: right.map((value, i) => value + voice[1][i]),
  };
}

async function writeFlac(path: string, { left, right }: Canvas): Promise<void> {
  const writer = await TakeWriter.create(path, [{ name: 'Demo', codec: 'flac', layout: 'stereo' }], {
    container: 'flac',
  });
  const portion = 48_000;
  for (let start = 0; start < left.length; start += portion) {
    const end = Math.min(left.length, start + portion);
    await writer.add([[left.subarray(start, end), right.subarray(start, end)]], end - start);
  }
  await writer.finish();
}
