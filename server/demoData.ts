import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { regattaMadeRight, regattaWithFaults, voiceOver } from '../core/demo/setups.ts';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import type { ServerContext } from './context.ts';
import { uploadFolder } from './jobs/checks.ts';
import { DEMO_RECORDINGS } from './media/demoSound.ts';
import { partOf, registerMedia } from './media/registerMedia.ts';

/** How far the making of the demo is: which recording, and how many are done of how many. */
export interface DemoStep {
  name: string;
  done: number;
  count: number;
}

/**
 * Fills a data folder with the demo: the recordings that are not there yet, and, where there is no setup, four setups.
 * The recordings are made on worker threads, so that the server answers meanwhile.
 * @param voicesDir the folder of the voices that are shipped
 */
export async function createDemoData(
  context: ServerContext,
  voicesDir: string,
  onStep: (step: DemoStep) => void,
): Promise<void> {
  const known = new Set(context.media.list().map((row) => row.file));
  const missing = DEMO_RECORDINGS.filter(({ file }) => !known.has(file));
  let done = 0;
  const make = async ({ file, name }: { file: string; name: string }) => {
    const path = join(context.dataDir, 'media', partOf(file));
    try {
      await context.runner.run('demoSound', { file, path, voicesDir });
      await registerMedia(context, { file, name });
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
    done += 1;
    onStep({ name, done, count: missing.length });
  };
  const failed = (await Promise.allSettled(missing.map(make))).find((result) => result.status === 'rejected');
  if (failed) throw failed.reason;
  if (context.setups.list().length > 0) return;
  context.setups.create(regattaWithFaults(), 'regatta-evening');
  context.setups.create(twoMachinesWithFaults(), 'two-machines');
  context.setups.create(regattaMadeRight(), 'regatta-made-right');
  context.setups.create(voiceOver(), 'voice-over');
}

/** The demo's recording of the evening, as it was made with the setup that has faults. */
const DEMO_RECORDING = { file: 'demo-evening.mkv', name: 'Lock & Paddle, the evening.mkv' };

/**
 * Records the demo's evening, faults and all, and checks it against its setup, beside what else is done. Once it was made it is not made
 * again, also when somebody has taken it away.
 */
export async function recordDemo({
  dataDir,
  media,
  checks,
  checking,
  preferences,
  runner,
  log,
}: ServerContext): Promise<void> {
  const { file, name } = DEMO_RECORDING;
  const MADE = 'the demo recording is made';
  if (preferences.get(MADE, false) || checks.at('upload', file)) return;
  const path = join(uploadFolder(dataDir), file);
  const setup = regattaWithFaults();
  try {
    await runner.run('render', { setup, mediaFiles: media.filesOf(setup, dataDir), outPath: partOf(path) });
    await rename(partOf(path), path);
    await checking.add('upload', file, name, 'regatta-evening');
    preferences.set(MADE, true);
  } catch (error) {
    await rm(partOf(path), { force: true });
    const isEnding = error instanceof DOMException && error.name === 'AbortError';
    if (!isEnding) log.warn({ err: error }, 'the demo’s recording was not made');
  }
}
