import type { Logger } from 'pino';
import type { EventHub } from './events.ts';
import type { Renders } from './jobs/renders.ts';
import type { TaskRunner } from './jobs/runner.ts';
import type { JobStore } from './store/jobs.ts';
import type { MediaStore } from './store/media.ts';
import type { PresetStore } from './store/presets.ts';
import type { RoomStore } from './store/rooms.ts';
import type { SetupStore } from './store/setups.ts';
import type { TakeStore } from './store/takes.ts';

/** What the routes work with. */
export interface ServerContext {
  dataDir: string;
  setups: SetupStore;
  media: MediaStore;
  jobs: JobStore;
  takes: TakeStore;
  rooms: RoomStore;
  presets: PresetStore;
  renders: Renders;
  runner: TaskRunner;
  events: EventHub;
  log: Logger;
}
