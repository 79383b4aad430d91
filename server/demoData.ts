import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { regattaMadeRight, regattaWithFaults, voiceOver } from '../core/demo/setups.ts';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import type { ServerContext } from './context.ts';
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
