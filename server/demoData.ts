import { copyFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Canvas } from '../core/demo/canvas.ts';
import { regattaMadeRight, regattaWithFaults, voiceOver } from '../core/demo/setups.ts';
import { DEMO_HUMMING, DEMO_SOUNDS, DEMO_VOICES } from '../core/demo/sounds.ts';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import type { Stereo } from '../core/engine/planes.ts';
import type { ServerContext } from './context.ts';
import { registerMedia } from './media/registerMedia.ts';
import { Stem } from './media/stem.ts';
import { TakeWriter } from './media/takeWriter.ts';

/**
 * Fills a data folder with the demo: the recordings that are not there yet, and, where there is no setup, four setups.
 * @param voicesDir the folder of the voices that are shipped
 */
export async function createDemoData(
  context: ServerContext,
  voicesDir: string,
  onStep: (step: string) => void,
): Promise<void> {
  const known = new Set(context.media.list().map((row) => row.file));
  for (const { file, name } of DEMO_VOICES.filter((voice) => !known.has(voice.file))) {
    onStep(name);
    await copyFile(join(voicesDir, file), mediaFile(context, file));
    await registerMedia(context, { file, name });
  }
  for (const { file, name, make } of DEMO_SOUNDS.filter((sound) => !known.has(sound.file))) {
    onStep(name);
    await writeFlac(mediaFile(context, file), make());
    await registerMedia(context, { file, name });
  }
  if (!known.has(DEMO_HUMMING.file)) {
    const { file, name, voice, make } = DEMO_HUMMING;
    onStep(name);
    await writeFlac(mediaFile(context, file), await together(join(voicesDir, voice), make()));
    await registerMedia(context, { file, name });
  }
  if (context.setups.list().length > 0) return;
  context.setups.create(regattaWithFaults(), 'regatta-evening');
  context.setups.create(twoMachinesWithFaults(), 'two-machines');
  context.setups.create(regattaMadeRight(), 'regatta-made-right');
  context.setups.create(voiceOver(), 'voice-over');
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

function mediaFile(context: ServerContext, file: string): string {
  return join(context.dataDir, 'media', file);
}
