import { randomUUID } from 'node:crypto';
import type { Check, CheckedPlace, CheckResult, CheckSummary } from '../../core/check/records.ts';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

const SUMMARY =
  'id, name, place, path, bytes, duration_s AS durationS, track_count AS trackCount, state, work, progress, message, verdict, setup_id AS setupId, created_at AS createdAt, checked_at AS checkedAt';

type Row = CheckSummary & { inspected: string | null; plan: string | null; result: string | null };

/** What may change of a recording that is checked. */
export type CheckValues = Partial<Omit<Check, 'id' | 'place' | 'path' | 'createdAt'>>;

const COLUMNS: Record<keyof CheckValues, string> = {
  name: 'name',
  bytes: 'bytes',
  durationS: 'duration_s',
  trackCount: 'track_count',
  state: 'state',
  work: 'work',
  progress: 'progress',
  message: 'message',
  verdict: 'verdict',
  setupId: 'setup_id',
  checkedAt: 'checked_at',
  inspected: 'inspected',
  plan: 'plan',
  result: 'result',
};

/** Recordings that were added to be checked, and what was found. */
export class CheckStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  list(): CheckSummary[] {
    return this.db
      .prepare(`SELECT ${SUMMARY} FROM checks ORDER BY created_at DESC, rowid DESC`)
      .all() as CheckSummary[];
  }

  get(id: string): Check {
    const sql = `SELECT ${SUMMARY}, inspected, plan, result FROM checks WHERE id = ?`;
    const { inspected, plan, result, ...row } = orNotFound(
      this.db.prepare(sql).get(id) as Row | undefined,
      'recording',
    );
    return {
      ...row,
      inspected: inspected === null ? null : JSON.parse(inspected),
      plan: plan === null ? null : JSON.parse(plan),
      result: result === null ? null : (JSON.parse(result) as CheckResult),
    };
  }

  summary(id: string): CheckSummary {
    const row = this.db.prepare(`SELECT ${SUMMARY} FROM checks WHERE id = ?`).get(id);
    return orNotFound(row as CheckSummary | undefined, 'recording');
  }

  /** Returns the recording at a place, when it was added already. */
  at(place: CheckedPlace, path: string): CheckSummary | undefined {
    return this.db.prepare(`SELECT ${SUMMARY} FROM checks WHERE place = ? AND path = ?`).get(place, path) as
      | CheckSummary
      | undefined;
  }

  /** The next recording that waits for work, the oldest first. */
  nextWaiting(): Check | undefined {
    const id = this.db
      .prepare("SELECT id FROM checks WHERE state = 'waiting' ORDER BY queued_at, rowid LIMIT 1")
      .pluck()
      .get() as string | undefined;
    return id === undefined ? undefined : this.get(id);
  }

  /** Work that ran when the process ended waits again. Call once, at the start. @returns how many */
  waitAgain(): number {
    return this.db.prepare("UPDATE checks SET state = 'waiting', progress = 0 WHERE state = 'running'").run()
      .changes;
  }

  add(values: Pick<Check, 'name' | 'place' | 'path' | 'bytes' | 'setupId'>): CheckSummary {
    const id = randomUUID();
    const now = new Date().toISOString();
    this.db
      .prepare(
        `INSERT INTO checks (id, name, place, path, bytes, state, work, progress, setup_id, created_at, queued_at)
         VALUES (@id, @name, @place, @path, @bytes, 'waiting', 'read', 0, @setupId, @now, @now)`,
      )
      .run({ ...values, id, now });
    return this.summary(id);
  }

  update(id: string, values: CheckValues): CheckSummary {
    this.summary(id);
    const entries = Object.entries(values).filter(([, value]) => value !== undefined);
    const columns = entries.map(([key]) => `${COLUMNS[key as keyof CheckValues]} = @${key}`);
    if (values.state === 'waiting') columns.push('queued_at = @now');
    const kept = entries.map(([key, value]) => [
      key,
      value !== null && typeof value === 'object' ? JSON.stringify(value) : value,
    ]);
    if (columns.length > 0)
      this.db
        .prepare(`UPDATE checks SET ${columns.join(', ')} WHERE id = @id`)
        .run({ ...Object.fromEntries(kept), id, now: new Date().toISOString() });
    return this.summary(id);
  }

  remove(id: string): void {
    this.db.prepare('DELETE FROM checks WHERE id = ?').run(id);
  }
}
