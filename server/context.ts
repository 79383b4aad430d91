import type { Logger } from 'pino';
import type { EventHub } from './events.ts';
import type { Checks } from './jobs/checks.ts';
import type { Deliveries } from './jobs/deliveries.ts';
import type { FolderWatch } from './jobs/folderWatch.ts';
import type { Renders } from './jobs/renders.ts';
import type { TaskRunner } from './jobs/runner.ts';
import type { CheckStore } from './store/checks.ts';
import type { DeliveryStore } from './store/deliveries.ts';
import type { JobStore } from './store/jobs.ts';
import type { MarkStore } from './store/marks.ts';
import type { MediaStore } from './store/media.ts';
import type { PreferenceStore } from './store/preferences.ts';
import type { PresetStore } from './store/presets.ts';
import type { RoomStore } from './store/rooms.ts';
import type { SetupStore } from './store/setups.ts';
import type { TakeStore } from './store/takes.ts';

/** What the routes work with. */
export interface ServerContext {
  dataDir: string;
  /** The folder of recordings that is not Northfen’s own; null where none is set. */
  mediaDir: string | null;
  setups: SetupStore;
  media: MediaStore;
  jobs: JobStore;
  takes: TakeStore;
  rooms: RoomStore;
  presets: PresetStore;
  preferences: PreferenceStore;
  renders: Renders;
  checks: CheckStore;
  checking: Checks;
  watch: FolderWatch;
  deliveries: DeliveryStore;
  marks: MarkStore;
  rehearsalMarks: MarkStore;
  delivering: Deliveries;
  runner: TaskRunner;
  events: EventHub;
  log: Logger;
}
