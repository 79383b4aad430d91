import { basename, relative, sep } from 'node:path';
import { type FSWatcher, watch as watchFolder } from 'chokidar';
import type { Logger } from 'pino';
import type { Arrivals } from '../../core/check/records.ts';
import type { EventHub } from '../events.ts';
import { inFolder, mayBeRecording } from '../media/mediaFolder.ts';
import type { PreferenceStore } from '../store/preferences.ts';
import type { SetupStore } from '../store/setups.ts';
import type { Checks } from './checks.ts';

interface WatchContext {
  mediaDir: string | null;
  checking: Checks;
  preferences: PreferenceStore;
  setups: SetupStore;
  events: EventHub;
  log: Logger;
}

const NAME = 'new recordings';
const INITIAL: Arrivals = { setupId: null, watch: false };
/** Several changes of the folder are told at once (ms). */
const TELL_AFTER_MS = 500;

/**
 * Watches the media folder: windows are told when it changes, and, when that is wanted, each new recording is read and checked as soon as
 * it is whole.
 */
export class FolderWatch {
  private readonly context: WatchContext;
  private watcher: FSWatcher | null = null;
  private telling: NodeJS.Timeout | null = null;

  constructor(context: WatchContext) {
    this.context = context;
  }

  begin(): void {
    const { mediaDir, log } = this.context;
    if (mediaDir === null || this.watcher) return;
    this.watcher = watchFolder(mediaDir, { ignoreInitial: true, followSymlinks: false })
      .on('add', (path) => this.added(mediaDir, path))
      .on('all', () => this.tell())
      .on('error', (error) => log.warn({ err: error }, 'the media folder cannot be watched'));
  }

  /** What happens to new recordings; a setup that was deleted counts as none. */
  get arrivals(): Arrivals {
    const { setupId, watch } = this.context.preferences.get(NAME, INITIAL);
    const isThere = this.context.setups.list().some(({ id }) => id === setupId);
    return { setupId: isThere ? setupId : null, watch };
  }

  set arrivals(arrivals: Arrivals) {
    this.context.preferences.set(NAME, arrivals);
    this.context.events.send('mediaFolder', {});
  }

  async close(): Promise<void> {
    if (this.telling) clearTimeout(this.telling);
    await this.watcher?.close();
  }

  private added(mediaDir: string, path: string): void {
    const { setupId, watch } = this.arrivals;
    if (!watch || !mayBeRecording(path)) return;
    const below = relative(mediaDir, path).split(sep).join('/');
    const { checking, log } = this.context;
    inFolder(mediaDir, below)
      .then(() => checking.add('folder', below, basename(path), setupId))
      .catch((error: unknown) => log.warn({ err: error, path: below }, 'a new recording was not taken in'));
  }

  private tell(): void {
    this.telling ??= setTimeout(() => {
      this.telling = null;
      this.context.events.send('mediaFolder', {});
    }, TELL_AFTER_MS).unref();
  }
}
