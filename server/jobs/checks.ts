import { rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import type { Logger } from 'pino';
import { type CheckPlan, planFromSetup, proposedPlan, referencesOf } from '../../core/check/plan.ts';
import type { InspectedTracks } from '../../core/check/recording.ts';
import type { Check, CheckedPlace, CheckSummary } from '../../core/check/records.ts';
import { overallVerdict, verdictsByUse } from '../../core/check/verification.ts';
import { dayOf } from '../../core/setup/day.ts';
import type { EventHub } from '../events.ts';
import { HttpError } from '../httpError.ts';
import { orDiskFull } from '../media/diskFile.ts';
import { inFolder } from '../media/mediaFolder.ts';
import { plannedReferences } from '../media/plannedReferences.ts';
import type { CheckStore, CheckValues } from '../store/checks.ts';
import type { SetupStore } from '../store/setups.ts';
import { isExpected } from './expected.ts';
import { CLOSING, OneByOne } from './oneByOne.ts';
import type { TaskRunner } from './runner.ts';
import { throttled } from './throttled.ts';
import { verifyRecording } from './verify.ts';

/** What checking needs from the rest of the server. */
interface ChecksContext {
  dataDir: string;
  /** The folder of recordings that is not Northfen’s own; null where none is set. */
  mediaDir: string | null;
  checks: CheckStore;
  setups: SetupStore;
  runner: TaskRunner;
  events: EventHub;
  log: Logger;
}

/** Progress is told at most this often (ms). */
const REPORT_EVERY_MS = 200;
/** A file is whole when it has not changed for so long (ms); it is looked at this often. */
const WHOLE_AFTER_MS = 3_000;
const LOOK_EVERY_MS = 500;

/**
 * Reads and checks recordings, one after the other in the order in which they were asked for. What waits or runs when the server ends
 * goes on when it starts again. Recordings are only read, never written to.
 */
export class Checks {
  private readonly context: ChecksContext;
  private readonly line: OneByOne<Check>;

  constructor(context: ChecksContext) {
    this.context = context;
    this.line = new OneByOne(
      () => context.checks.nextWaiting(),
      (check, signal) => this.work(check, signal),
    );
  }

  /** Goes on with what waits. Call once, at the start. */
  begin(): void {
    this.context.checks.waitAgain();
    this.line.next();
  }

  /** Adds a recording and reads its tracks; with a setup it is also checked against it. One that was added before is returned. */
  async add(
    place: CheckedPlace,
    path: string,
    name: string,
    setupId: string | null = null,
  ): Promise<CheckSummary> {
    const { checks, events } = this.context;
    const bytes = (await stat(await this.fileOf({ place, path }))).size;
    const known = checks.at(place, path);
    if (known) {
      if (setupId === null || known.state === 'waiting' || known.state === 'running') return known;
      return this.queue(known.id, { setupId, work: 'read' });
    }
    const added = checks.add({ name, place, path, bytes, setupId });
    events.send('check', added);
    this.line.next();
    return added;
  }

  /** Checks a recording by a plan. @throws {HttpError} 409 while it is being worked on */
  check(id: string, plan: CheckPlan): CheckSummary {
    const { state, inspected } = this.context.checks.get(id);
    if (state === 'running' || state === 'waiting')
      throw new HttpError(
        409,
        'busy',
        'Northfen is still working on this recording. Wait, or stop it first.',
      );
    if (!inspected)
      throw new HttpError(
        409,
        'not-read',
        'The tracks of this recording were not read yet. Press Go on first.',
      );
    return this.queue(id, { plan, setupId: plan.setupId, work: 'check' });
  }

  /** Stops what is done or waits to be done for a recording. */
  stop(id: string): CheckSummary {
    const { state } = this.context.checks.summary(id);
    if (state === 'waiting') return this.report(id, { state: 'stopped', message: null });
    void this.line.stop(id);
    return this.context.checks.summary(id);
  }

  /** Does what was stopped or has failed once more. */
  goOn(id: string): CheckSummary {
    const { state } = this.context.checks.summary(id);
    return state === 'running' || state === 'waiting' ? this.context.checks.summary(id) : this.queue(id, {});
  }

  /** Removes a recording from the list; an uploaded file is deleted, a file of the media folder stays. */
  async remove(id: string): Promise<void> {
    const { checks, events } = this.context;
    const { place, path } = checks.summary(id);
    await this.line.stop(id);
    checks.remove(id);
    if (place === 'upload') {
      const file = join(uploadFolder(this.context.dataDir), basename(path));
      await Promise.all([file, `${file}.json`].map((one) => rm(one, { force: true })));
    }
    events.send('checks', {});
  }

  /** The absolute path of a recording. @throws {HttpError} 404 when it is not there any more */
  async fileOf({ place, path }: Pick<Check, 'place' | 'path'>): Promise<string> {
    return place === 'folder'
      ? inFolder(this.context.mediaDir, path)
      : inFolder(uploadFolder(this.context.dataDir), basename(path));
  }

  /** Interrupts what runs, for the server’s end. It goes on at the next start. */
  async stopAll(): Promise<void> {
    await this.line.close();
  }

  private queue(id: string, values: CheckValues): CheckSummary {
    const queued = this.report(id, { ...values, state: 'waiting', progress: 0, message: null });
    this.line.next();
    return queued;
  }

  private async work(check: Check, signal: AbortSignal): Promise<void> {
    const { id } = check;
    try {
      this.report(id, { state: 'running', progress: 0, message: null });
      const path = await this.fileOf(check);
      await this.whole(id, path, signal);
      const before = await stat(path);
      const isReading = check.work === 'read' || !check.inspected;
      const willCheck = !isReading || check.setupId !== null;
      const inspected = isReading
        ? await this.read(check, path, signal, willCheck ? 0.4 : 1)
        : (check.inspected as InspectedTracks);
      const plan = check.work === 'check' && check.plan ? check.plan : this.planOf(check, inspected);
      this.report(id, { bytes: before.size, plan });
      if (willCheck) await this.verify(id, path, plan, signal, isReading ? 0.4 : 0);
      const after = await stat(path);
      const hasChanged = after.size !== before.size || after.mtimeMs !== before.mtimeMs;
      this.report(id, {
        state: 'idle',
        progress: 1,
        message: hasChanged ? 'The file changed while Northfen read it. Press Go on to read it again.' : null,
      });
    } catch (thrown) {
      this.fail(id, orDiskFull(thrown), signal);
    }
  }

  /** Waits until nothing has been written to a file for a while. */
  private async whole(id: string, path: string, signal: AbortSignal): Promise<void> {
    let isTold = false;
    for (;;) {
      const { mtimeMs, size } = await stat(path);
      if (Date.now() - mtimeMs > WHOLE_AFTER_MS && size > 0) return;
      if (size === 0 && Date.now() - mtimeMs > WHOLE_AFTER_MS) return;
      if (!isTold) this.report(id, { message: 'Waiting until the file is whole …' });
      isTold = true;
      await wait(LOOK_EVERY_MS, undefined, { signal });
    }
  }

  private async read(
    { id, name }: Check,
    path: string,
    signal: AbortSignal,
    share: number,
  ): Promise<InspectedTracks> {
    const inspected = await this.context.runner
      .run(
        'inspectTracks',
        { path },
        {
          signal,
          onProgress: throttled(REPORT_EVERY_MS, (done) => this.report(id, { progress: share * done })),
        },
      )
      .catch((error: Error) => {
        error.message = error.message.replaceAll(basename(path), name);
        throw error;
      });
    this.report(id, {
      inspected,
      durationS: inspected.tracks[0]?.durationS ?? null,
      trackCount: inspected.tracks.length,
      result: null,
      verdict: null,
      message: null,
    });
    return inspected;
  }

  private planOf({ setupId }: Check, { tracks, proposals }: InspectedTracks): CheckPlan {
    const names = tracks.map(({ name }) => name);
    return setupId === null
      ? proposedPlan(names, proposals)
      : planFromSetup(setupId, this.context.setups.get(setupId).setup, names, dayOf(new Date()));
  }

  private async verify(
    id: string,
    path: string,
    plan: CheckPlan,
    signal: AbortSignal,
    from: number,
  ): Promise<void> {
    const references = await plannedReferences(referencesOf(plan), this.context);
    const onProgress = throttled(REPORT_EVERY_MS, (done: number) =>
      this.report(id, { progress: from + (1 - from) * done }),
    );
    const found =
      references.length === 0
        ? { leaks: [], untested: [] }
        : await verifyRecording(this.context.runner, path, references, {
            signal,
            onProgress,
            keepIn: join(this.context.dataDir, 'prints'),
          });
    const usesOf = (one: { reference: string; track: number }) => {
      const notFor = references.find(({ name }) => name === one.reference)?.notFor ?? [];
      const uses = plan.tracks[one.track - 1]?.goesTo.filter((use) => notFor.includes(use)) ?? [];
      return { ...one, uses };
    };
    const result = {
      plan,
      pairs: references.reduce((sum, { forbiddenIn }) => sum + forbiddenIn.length, 0),
      references: references.map(({ name, track, path }) => ({ name, track, path })),
      leaks: found.leaks.map((one) => ({ ...one, ...usesOf(one) })),
      untested: found.untested.map((one) => ({ ...one, ...usesOf(one) })),
    };
    const verdict = overallVerdict(verdictsByUse(plan, result));
    this.report(id, { result, verdict, checkedAt: new Date().toISOString() });
  }

  /** Never throws: it also runs where nobody would catch. */
  private fail(id: string, error: unknown, signal: AbortSignal): void {
    if (!isExpected(error) && !signal.aborted)
      this.context.log.error({ err: error, check: id }, 'checking failed');
    const message = isExpected(error)
      ? error.message
      : 'Checking stopped because of a fault in Northfen. The recording was not changed. Try again, or look at the log.';
    const stopped: CheckValues =
      signal.reason === CLOSING
        ? { state: 'waiting', progress: 0 }
        : { state: 'stopped', message: 'Stopped.' };
    try {
      this.report(id, signal.aborted ? stopped : { state: 'failed', message });
    } catch (thrown) {
      this.context.log.error({ err: thrown, check: id }, 'the state of a check was not written down');
    }
  }

  /** Notes how a recording stands, and tells every window. */
  private report(id: string, values: CheckValues): CheckSummary {
    const summary = this.context.checks.update(id, values);
    this.context.events.send('check', summary);
    return summary;
  }
}

/** The folder of uploaded recordings in the data folder. */
export function uploadFolder(dataDir: string): string {
  return join(dataDir, 'recordings');
}
