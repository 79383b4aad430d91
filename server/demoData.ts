import { copyFile } from 'node:fs/promises';
import { join } from 'node:path';
import { regattaMadeRight, regattaWithFaults, voiceOver } from '../core/demo/setups.ts';
import { DEMO_SOUNDS, DEMO_VOICES } from '../core/demo/sounds.ts';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import type { ServerContext } from './context.ts';
import { registerMedia } from './media/registerMedia.ts';
import { TakeWriter } from './media/takeWriter.ts';

/**
 * Fills an empty data folder with the demo: nine recordings and four setups. Does nothing where there is a setup
 * already.
 * @param voicesDir the folder of the voices that are shipped
 */
export async function createDemoData(
  context: ServerContext,
  voicesDir: string,
  onStep: (step: string) => void,
): Promise<void> {
  if (context.setups.list().length > 0) return;
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
  context.setups.create(regattaWithFaults(), 'regatta-evening');
  context.setups.create(twoMachinesWithFaults(), 'two-machines');
  context.setups.create(regattaMadeRight(), 'regatta-made-right');
  context.setups.create(voiceOver(), 'voice-over');
}

async function writeFlac(
  path: string,
  { left, right }: { left: Float32Array; right: Float32Array },
): Promise<void> {
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
