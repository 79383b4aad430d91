import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { ServerContext } from './context.ts';
import { claimDataFolder, type DataFolder } from './dataFolder.ts';
import { EventHub } from './events.ts';
import { Checks } from './jobs/checks.ts';
import { Deliveries } from './jobs/deliveries.ts';
import { FolderWatch } from './jobs/folderWatch.ts';
import { Renders } from './jobs/renders.ts';
import type { TaskRunner } from './jobs/runner.ts';
import { CheckStore } from './store/checks.ts';
import { type Db, openDatabase } from './store/database.ts';
import { DeliveryStore } from './store/deliveries.ts';
import { JobStore } from './store/jobs.ts';
import { MarkStore } from './store/marks.ts';
import { MediaStore } from './store/media.ts';
import { PreferenceStore } from './store/preferences.ts';
import { PresetStore } from './store/presets.ts';
import { RoomStore } from './store/rooms.ts';
import { SetupStore } from './store/setups.ts';
import { TakeStore } from './store/takes.ts';
import { tidyDataFolder } from './tidy.ts';

/** What can be chosen when the data folder is opened. */
export interface OpenContextOptions {
  dataDir: string;
  /** The folder of recordings that is not Northfen’s own, where there is one. */
  mediaDir?: string | null;
  /** Where what is made of recordings is put; a folder in the data folder where it is left out. */
  deliverDir?: string | null;
  /** The folder, where it is claimed already. */
  folder?: DataFolder;
  runner: TaskRunner;
  log: Logger;
  /** Pretends that the disk is full beyond this many bytes of a take. */
  spaceBytes?: number;
}

/**
 * Opens the data folder: database, media and takes. Renders that were running when the process died are marked so,
 * and what they had written is removed.
 * @throws {DataFolderError} as `claimDataFolder` does
 */
export function openContext({
  dataDir,
  mediaDir = null,
  deliverDir,
  folder = claimDataFolder(dataDir),
  runner,
  log,
  spaceBytes,
}: OpenContextOptions): ServerContext & { db: Db; close(): Promise<void> } {
  const db = openDatabase(dataDir);
  for (const name of ['media', 'takes', 'recordings']) mkdirSync(join(dataDir, name), { recursive: true });
  const setups = new SetupStore(db);
  const media = new MediaStore(db);
  const jobs = new JobStore(db);
  const takes = new TakeStore(db);
  const rooms = new RoomStore(db);
  const presets = new PresetStore(db);
  const preferences = new PreferenceStore(db);
  const events = new EventHub();
  const interrupted = jobs.markInterrupted();
  if (interrupted.length > 0)
    log.warn({ jobs: interrupted.length }, 'renders were interrupted when Northfen last ended');
  tidyDataFolder(dataDir, {
    takes: new Set(takes.ids()),
    media: new Set(media.list().map(({ file }) => file)),
  });
  const checks = new CheckStore(db);
  const checking = new Checks({ dataDir, mediaDir, checks, setups, runner, events, log });
  const watch = new FolderWatch({ mediaDir, checking, preferences, setups, events, log });
  const deliveries = new DeliveryStore(db);
  const marks = new MarkStore(db, 'recording');
  const rehearsalMarks = new MarkStore(db, 'rehearsal');
  const delivering = new Deliveries({
    dataDir,
    mediaDir,
    deliverDir: deliverDir ?? join(dataDir, 'made'),
    checks,
    checking,
    deliveries,
    marks,
    runner,
    events,
    log,
  });
  checking.begin();
  watch.begin();
  void delivering.begin();
  const renders = new Renders({ dataDir, jobs, takes, media, runner, events, log, spaceBytes });
  const close = async () => {
    await watch.close();
    const stopped = Promise.all([renders.stopAll(), checking.stopAll(), delivering.stopAll()]);
    await runner.close();
    await stopped;
    db.close();
    folder.release();
  };
  return {
    dataDir,
    mediaDir,
    db,
    setups,
    media,
    jobs,
    takes,
    rooms,
    presets,
    preferences,
    renders,
    checks,
    checking,
    watch,
    deliveries,
    marks,
    rehearsalMarks,
    delivering,
    runner,
    events,
    log,
    close,
  };
}
