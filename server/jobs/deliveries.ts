import { mkdir, readdir, rm, rmdir, stat } from 'node:fs/promises';
import { dirname, join, relative, sep } from 'node:path';
import type { Logger } from 'pino';
import type { Check } from '../../core/check/records.ts';
import type { DeliveredFile, Delivery, DeliveryOrder, DeliveryResult } from '../../core/deliver/records.ts';
import { titleOf } from '../../core/deliver/usual.ts';
import type { EventHub } from '../events.ts';
import { fileName } from '../fileName.ts';
import { HttpError } from '../httpError.ts';
import { orDiskFull } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';
import type { DeliveryValues } from '../store/deliveries.ts';
import { isExpected } from './expected.ts';
import { makeDelivery } from './making/makeDelivery.ts';
import type { Made, MakingContext } from './making/making.ts';
import { CLOSING, OneByOne } from './oneByOne.ts';
import { throttled } from './throttled.ts';

/** What making files needs from the rest of the server. */
interface DeliveriesContext extends MakingContext {
  /** Where what is made is put. */
  deliverDir: string;
  events: EventHub;
  log: Logger;
}

/** Progress is told at most this often (ms). */
const REPORT_EVERY_MS = 200;

/**
 * Makes files of recordings, one after the other in the order in which they were asked for, each into a folder of its own. One that does not
 * come to its end leaves no folder behind. Recordings are only read.
 */
export class Deliveries {
  private readonly context: DeliveriesContext;
  private readonly queue: OneByOne<Delivery>;

  constructor(context: DeliveriesContext) {
    this.context = context;
    this.queue = new OneByOne(
      () => context.deliveries.nextWaiting(),
      (delivery, signal) => this.work(delivery, signal),
    );
  }

  /** Clears away what an earlier run left half made, and goes on with what waits. Call once, at the start. */
  async begin(): Promise<void> {
    const { deliveries, log } = this.context;
    for (const { id, folder } of deliveries.markInterrupted()) {
      log.warn({ delivery: id }, 'making files was interrupted when Northfen last ended');
      if (folder) await this.removeFolder(folder);
    }
    this.queue.next();
  }

  /** Has something made of a recording. @throws {HttpError} 409 where it was not read yet, 422 where it does not have what is asked for */
  add(checkId: string, order: DeliveryOrder, go: string | null = null): Delivery {
    const check = this.context.checks.get(checkId);
    refuseUnready(check, order);
    const added = this.context.deliveries.add(checkId, order, go);
    this.context.events.send('delivery', added);
    this.queue.next();
    return this.context.deliveries.get(added.id);
  }

  /** Stops what is made or waits. */
  stop(id: string): Delivery {
    const { state } = this.context.deliveries.get(id);
    if (state === 'waiting') return this.report(id, { state: 'stopped', message: null });
    void this.queue.stop(id);
    return this.context.deliveries.get(id);
  }

  /** Makes once more what was stopped or has failed. */
  again(id: string): Delivery {
    const { state, checkId, order } = this.context.deliveries.get(id);
    if (state === 'waiting' || state === 'running' || state === 'done')
      return this.context.deliveries.get(id);
    refuseUnready(this.context.checks.get(checkId), order);
    const waiting = this.report(id, { state: 'waiting', progress: 0, phase: '', message: null });
    this.queue.next();
    return waiting;
  }

  /** Forgets what was made, and deletes its files; what else was put into their folder stays. */
  async remove(id: string): Promise<void> {
    const { deliveries, events } = this.context;
    await this.queue.stop(id);
    // It may have come to its end before it could be stopped.
    const { folder, files, checkId } = deliveries.get(id);
    deliveries.remove(id);
    if (folder) await removeFiles(folder, files);
    events.send('deliveries', { checkId });
  }

  /** Stops what is being made of a recording that goes from the list; files that were made stay where they are. */
  async release(checkId: string): Promise<void> {
    const { deliveries } = this.context;
    const ids = deliveries.list(checkId).map(({ id }) => id);
    for (const id of ids) this.stop(id);
    for (const id of ids) await this.queue.stop(id);
  }

  /** Interrupts what runs, for the server’s end. */
  async stopAll(): Promise<void> {
    await this.queue.close();
  }

  private async work(delivery: Delivery, signal: AbortSignal): Promise<void> {
    const { id, checkId, order } = delivery;
    let folder = '';
    try {
      this.report(id, { state: 'running', progress: 0, message: null });
      const check = this.context.checks.get(checkId);
      if (order.kind !== 'marks') folder = await this.newFolder(check.name);
      this.report(id, { folder });
      const made = await makeDelivery(this.context, {
        check,
        order,
        folder,
        signal,
        onProgress: this.reporter(id),
      });
      await this.finish(id, made, folder);
    } catch (thrown) {
      if (folder) await this.removeFolder(folder);
      this.fail(id, orDiskFull(thrown), signal);
    }
  }

  private reporter(id: string): (phase: string, share: number) => void {
    let last = '';
    const report = throttled(REPORT_EVERY_MS, ([phase, progress]: [string, number]) =>
      this.report(id, { phase, progress }),
    );
    return (phase, share) => {
      if (phase !== last) this.report(id, { phase, progress: share });
      else report([phase, share]);
      last = phase;
    };
  }

  private async finish(id: string, { result, message }: Made, folder: string): Promise<void> {
    const files = folder ? await filesIn(folder) : [];
    if (folder && files.length === 0) await this.removeFolder(folder);
    this.report(id, {
      state: 'done',
      phase: '',
      progress: 1,
      message,
      files,
      folder: files.length > 0 ? folder : '',
      result: result satisfies DeliveryResult,
    });
  }

  /** Makes a folder that is not there yet, called as the recording is. @returns its path */
  private async newFolder(name: string): Promise<string> {
    const { deliverDir } = this.context;
    await mkdir(deliverDir, { recursive: true }).catch((error: NodeJS.ErrnoException) => {
      throw new MediaError(
        'unsupported',
        `The folder ${deliverDir} cannot be made (${error.code}). Choose another one for what is made (NORTHFEN_DELIVER_DIR), and start Northfen again.`,
      );
    });
    const base = fileName(titleOf({ name }));
    for (let number = 1; ; number++) {
      const folder = join(deliverDir, number === 1 ? base : `${base} ${number}`);
      try {
        await mkdir(folder);
        return folder;
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      }
    }
  }

  private async removeFolder(folder: string): Promise<void> {
    await rm(folder, { recursive: true, force: true }).catch((error) =>
      this.context.log.error({ err: error, folder }, 'a folder of what was made could not be removed'),
    );
  }

  /** Never throws: it also runs where nobody would catch. */
  private fail(id: string, error: unknown, signal: AbortSignal): void {
    if (!isExpected(error) && !signal.aborted)
      this.context.log.error({ err: error, delivery: id }, 'making files failed');
    const message = isExpected(error)
      ? error.message
      : 'This failed because of a fault in Northfen. The recording was not changed, and no unfinished files were left. Try again, or look at the log.';
    const stopped: DeliveryValues =
      signal.reason === CLOSING
        ? { state: 'waiting', progress: 0, phase: '' }
        : { state: 'stopped', message: 'Stopped. No unfinished files were left.' };
    try {
      this.report(id, {
        folder: '',
        files: [],
        ...(signal.aborted ? stopped : { state: 'failed', message }),
      });
    } catch (thrown) {
      const isGone = thrown instanceof HttpError; // it was removed meanwhile
      if (!isGone) this.context.log.error({ err: thrown, delivery: id }, 'a state was not written down');
    }
  }

  private report(id: string, values: DeliveryValues): Delivery {
    const delivery = this.context.deliveries.update(id, values);
    this.context.events.send('delivery', delivery);
    return delivery;
  }
}

function refuseUnready({ inspected, plan }: Check, order: DeliveryOrder): void {
  // A damaged recording may not be readable to its end.
  if (order.kind === 'repair' || order.kind === 'rewrap') return;
  if (!inspected || !plan)
    throw new HttpError(
      409,
      'not-read',
      'The tracks of this recording were not read yet. Wait for that first.',
    );
  const asked =
    order.kind === 'files'
      ? (order.upload?.tracks.map(({ track }) => track) ?? [])
      : order.kind === 'rescue'
        ? [order.track, order.sound.track ?? 0]
        : order.kind === 'join'
          ? [order.track]
          : [];
  const missing = asked.find((track) => track >= inspected.tracks.length);
  if (missing !== undefined)
    throw new HttpError(
      422,
      'no-track',
      `There is no track ${missing + 1}; this recording has ${inspected.tracks.length}.`,
    );
  if (order.kind === 'rescue' && order.sound.track === order.track)
    throw new HttpError(422, 'same-track', 'A track cannot be taken out of itself. Choose another sound.');
}

async function removeFiles(folder: string, files: DeliveredFile[]): Promise<void> {
  for (const { name } of files) await rm(join(folder, name), { force: true });
  const within = new Set(files.map(({ name }) => dirname(join(folder, name))));
  for (const one of [...within, folder].sort((a, b) => b.length - a.length)) await rmdir(one).catch(() => {});
}

/** All files below a folder. */
async function filesIn(folder: string): Promise<DeliveredFile[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const files = entries.filter((entry) => entry.isFile());
  const found = await Promise.all(
    files.map(async (entry) => {
      const path = join(entry.parentPath, entry.name);
      return { name: relative(folder, path).split(sep).join('/'), bytes: (await stat(path)).size };
    }),
  );
  return found.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
}
