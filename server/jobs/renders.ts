import { randomUUID } from 'node:crypto';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { isContradiction, isLeak } from '../../core/measure/proof.ts';
import type { EventHub } from '../events.ts';
import { HttpError } from '../httpError.ts';
import { DiskFullError } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';
import type { JobRow, JobStore } from '../store/jobs.ts';
import type { MediaStore } from '../store/media.ts';
import type { StoredSetup } from '../store/setups.ts';
import type { TakeStore } from '../store/takes.ts';
import { renderAndProve } from './prove.ts';
import type { TaskRunner } from './runner.ts';

/** What the renders need from the rest of the server. */
interface RendersContext {
  dataDir: string;
  jobs: JobStore;
  takes: TakeStore;
  media: MediaStore;
  runner: TaskRunner;
  events: EventHub;
  log: Logger;
  spaceBytes?: number;
}

/** Progress is stored and sent on at most this often (ms). */
const REPORT_EVERY_MS = 100;

/** Starts, watches and cancels renders. A render that ends without a take leaves no file behind. */
export class Renders {
  private readonly context: RendersContext;
  private readonly running = new Map<string, AbortController>();

  constructor(context: RendersContext) {
    this.context = context;
  }

  /** Starts a render of a setup as it is now and returns its job at once. */
  start(stored: StoredSetup): JobRow {
    const job = this.context.jobs.create(stored.id);
    const controller = new AbortController();
    this.running.set(job.id, controller);
    this.context.events.send('job', job);
    void this.render(job, stored, controller.signal).finally(() => this.running.delete(job.id));
    return job;
  }

  /** @throws {HttpError} 409 when the job has ended already */
  cancel(jobId: string): JobRow {
    const controller = this.running.get(jobId);
    if (!controller) throw new HttpError(409, 'not-running', 'This render has ended already.');
    controller.abort();
    return this.context.jobs.get(jobId);
  }

  /** Cancels what still runs, for the server's end. */
  stopAll(): void {
    for (const controller of this.running.values()) controller.abort();
  }

  private async render(job: JobRow, stored: StoredSetup, signal: AbortSignal): Promise<void> {
    const { dataDir, media, runner, takes } = this.context;
    const takeId = randomUUID();
    const folder = takeFolder(dataDir, takeId);
    try {
      await mkdir(folder, { recursive: true });
      const takePath = takeFile(dataDir, takeId);
      const rendered = await renderAndProve(runner, {
        setup: stored.setup,
        mediaFiles: media.filesOf(stored.setup, dataDir),
        takePath,
        today: new Date().toISOString().slice(0, 10),
        spaceBytes: this.context.spaceBytes,
        signal,
        onProgress: throttled(({ phase, share }) => this.report(job.id, { phase, progress: share })),
      });
      const take = takes.add({
        id: takeId,
        setupId: stored.id,
        name: `Take ${takes.count(stored.id) + 1}`,
        revision: stored.revision,
        setup: stored.setup,
        durationS: rendered.durationS,
        bytes: (await stat(takePath)).size,
        tracks: rendered.tracks,
        proof: rendered.proof,
        leaks: rendered.proof.filter(isLeak).length,
        contradictions: rendered.proof.filter(isContradiction).length,
      });
      this.report(job.id, { state: 'done', phase: 'Done', progress: 1, takeId: take.id });
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      this.fail(job, error, signal);
    }
  }

  private fail(job: JobRow, error: unknown, signal: AbortSignal): void {
    if (signal.aborted) {
      this.report(job.id, { state: 'cancelled', message: 'Cancelled. No take was made.' });
      return;
    }
    const expected = error instanceof MediaError || error instanceof DiskFullError;
    if (!expected) this.context.log.error({ err: error, job: job.id }, 'render failed');
    const message = expected
      ? error.message
      : 'The render stopped by a fault in Northfen; nothing was changed. Try again, or look at the log.';
    this.report(job.id, { state: 'failed', message });
  }

  private report(id: string, values: Parameters<JobStore['update']>[1]): void {
    try {
      this.context.events.send('job', this.context.jobs.update(id, values));
    } catch (error) {
      if (!(error instanceof HttpError)) throw error; // the setup was deleted together with its jobs
    }
  }
}

/** The folder of a take in the data folder. */
export function takeFolder(dataDir: string, takeId: string): string {
  return join(dataDir, 'takes', takeId);
}

/** The container file of a take. */
export function takeFile(dataDir: string, takeId: string): string {
  return join(takeFolder(dataDir, takeId), 'take.mkv');
}

function throttled<T>(report: (value: T) => void): (value: T) => void {
  let last = 0;
  return (value) => {
    const now = Date.now();
    if (now - last < REPORT_EVERY_MS) return;
    last = now;
    report(value);
  };
}
