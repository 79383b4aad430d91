import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { ServerContext } from './context.ts';
import { EventHub } from './events.ts';
import { Renders } from './jobs/renders.ts';
import type { TaskRunner } from './jobs/runner.ts';
import { openDatabase } from './store/database.ts';
import { JobStore } from './store/jobs.ts';
import { MediaStore } from './store/media.ts';
import { PresetStore } from './store/presets.ts';
import { RoomStore } from './store/rooms.ts';
import { SetupStore } from './store/setups.ts';
import { TakeStore } from './store/takes.ts';

/** What can be chosen when the data folder is opened. */
export interface OpenContextOptions {
  dataDir: string;
  runner: TaskRunner;
  log: Logger;
  /** Pretends that the disk is full beyond this many bytes of a take. */
  spaceBytes?: number;
}

/**
 * Opens the data folder: database, media and takes. Renders that were running when the process died are marked so,
 * and what they had written is removed. What was kept of recordings, to be quick, is made anew when it is needed.
 */
export function openContext({
  dataDir,
  runner,
  log,
  spaceBytes,
}: OpenContextOptions): ServerContext & { close(): Promise<void> } {
  const db = openDatabase(dataDir);
  rmSync(join(dataDir, 'kept'), { recursive: true, force: true });
  for (const folder of ['media', 'takes']) mkdirSync(join(dataDir, folder), { recursive: true });
  const setups = new SetupStore(db);
  const media = new MediaStore(db);
  const jobs = new JobStore(db);
  const takes = new TakeStore(db);
  const rooms = new RoomStore(db);
  const presets = new PresetStore(db);
  const events = new EventHub();
  const interrupted = jobs.markInterrupted();
  if (interrupted.length > 0)
    log.warn({ jobs: interrupted.length }, 'renders were interrupted when Northfen last ended');
  removeOrphans(
    join(dataDir, 'takes'),
    new Set(setups.list().flatMap(({ id }) => takes.list(id).map((take) => take.id))),
  );
  const renders = new Renders({ dataDir, jobs, takes, media, runner, events, log, spaceBytes });
  const close = async () => {
    renders.stopAll();
    await runner.close();
    db.close();
  };
  return { dataDir, setups, media, jobs, takes, rooms, presets, renders, runner, events, log, close };
}

function removeOrphans(folder: string, known: Set<string>): void {
  for (const name of readdirSync(folder)) {
    if (!known.has(name)) rmSync(join(folder, name), { recursive: true, force: true });
  }
}
