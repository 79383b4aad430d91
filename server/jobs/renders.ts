import { randomUUID } from 'node:crypto';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { isContradiction, isLeak } from '../../core/proof/proof.ts';
import { dayOf } from '../../core/setup/day.ts';
import type { EventHub } from '../events.ts';
import { HttpError } from '../httpError.ts';
import { orDiskFull } from '../media/diskFile.ts';
import { INTERRUPTED, type JobRow, type JobStore } from '../store/jobs.ts';
import type { MediaStore } from '../store/media.ts';
import type { StoredSetup } from '../store/setups.ts';
import type { TakeStore } from '../store/takes.ts';
import { isExpected } from './expected.ts';
import { CLOSING } from './oneByOne.ts';
import { renderAndProve } from './prove.ts';
import type { TaskRunner } from './runner.ts';
import { throttled } from './throttled.ts';

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
  private readonly running = new Map<string, { controller: AbortController; ended: Promise<void> }>();

  constructor(context: RendersContext) {
    this.context = context;
  }

  /** Starts a render of a setup as it is now and returns its job at once. */
  start(stored: StoredSetup): JobRow {
    const job = this.context.jobs.create(stored.id);
    const controller = new AbortController();
    this.context.events.send('job', job);
    const ended = this.render(job, stored, controller.signal).finally(() => this.running.delete(job.id));
    this.running.set(job.id, { controller, ended });
    return job;
  }

  /** @throws {HttpError} 409 when the job has ended already */
  cancel(jobId: string): JobRow {
    const running = this.running.get(jobId);
    if (!running) throw new HttpError(409, 'not-running', 'This render has ended already.');
    running.controller.abort();
    return this.context.jobs.get(jobId);
  }

  /** Interrupts what still runs, for the server's end, and waits until that is written down. */
  async stopAll(): Promise<void> {
    for (const { controller } of this.running.values()) controller.abort(CLOSING);
    await Promise.all([...this.running.values()].map(({ ended }) => ended));
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
        today: dayOf(new Date()),
        spaceBytes: this.context.spaceBytes,
        signal,
        onProgress: throttled(REPORT_EVERY_MS, ({ phase, share }) =>
          this.report(job.id, { phase, progress: share }),
        ),
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
        conclusion: rendered.conclusion,
        leaks: rendered.proof.filter(isLeak).length,
        contradictions: rendered.proof.filter(isContradiction).length,
      });
      this.report(job.id, { state: 'done', phase: 'Done', progress: 1, takeId: take.id });
    } catch (thrown) {
      await rm(folder, { recursive: true, force: true }).catch((error) =>
        this.context.log.error(
          { err: error, folder },
          'a half take could not be removed; the next start does it',
        ),
      );
      this.fail(job, orDiskFull(thrown), signal);
    }
  }

  private fail(job: JobRow, error: unknown, signal: AbortSignal): void {
    if (signal.aborted) {
      this.report(
        job.id,
        signal.reason === CLOSING
          ? { state: 'interrupted', message: INTERRUPTED }
          : { state: 'cancelled', message: 'Cancelled. No take was made.' },
      );
      return;
    }
    if (!isExpected(error)) this.context.log.error({ err: error, job: job.id }, 'render failed');
    const message = isExpected(error)
      ? error.message
      : 'The render stopped by a fault in Northfen; nothing was changed. Try again, or look at the log.';
    this.report(job.id, { state: 'failed', message });
  }

  /** Never throws: it also runs where nobody would catch. */
  private report(id: string, values: Parameters<JobStore['update']>[1]): void {
    try {
      this.context.events.send('job', this.context.jobs.update(id, values));
    } catch (error) {
      const isGone = error instanceof HttpError; // the setup was deleted together with its jobs
      if (!isGone)
        this.context.log.error({ err: error, job: id }, 'the state of a render was not written down');
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
