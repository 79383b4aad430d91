import { randomUUID } from 'node:crypto';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

export type JobState = 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';

/** A render with its measuring. `progress` is 0 to 1 over both. */
export interface JobRow {
  id: string;
  setupId: string;
  state: JobState;
  phase: string;
  progress: number;
  message: string | null;
  takeId: string | null;
  createdAt: string;
}

const COLUMNS =
  'id, setup_id AS setupId, state, phase, progress, message, take_id AS takeId, created_at AS createdAt';

/** Renders that run, and how the earlier ones ended. */
export class JobStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  /** Marks jobs that were running when the process died. Call once, at the start. Returns them. */
  markInterrupted(): JobRow[] {
    const running = this.db.prepare(`SELECT ${COLUMNS} FROM jobs WHERE state = 'running'`).all() as JobRow[];
    this.db
      .prepare("UPDATE jobs SET state = 'interrupted', message = ? WHERE state = 'running'")
      .run('Northfen was closed while this was rendering. No take was made; render again.');
    return running;
  }

  create(setupId: string): JobRow {
    const id = randomUUID();
    this.db
      .prepare(
        "INSERT INTO jobs (id, setup_id, state, phase, progress, created_at) VALUES (?, ?, 'running', 'Mixing', 0, ?)",
      )
      .run(id, setupId, new Date().toISOString());
    return this.get(id);
  }

  get(id: string): JobRow {
    return orNotFound(
      this.db.prepare(`SELECT ${COLUMNS} FROM jobs WHERE id = ?`).get(id) as JobRow | undefined,
      'render',
    );
  }

  /** The newest jobs of a setup first. */
  list(setupId: string): JobRow[] {
    return this.db
      .prepare(`SELECT ${COLUMNS} FROM jobs WHERE setup_id = ? ORDER BY created_at DESC, rowid DESC LIMIT 20`)
      .all(setupId) as JobRow[];
  }

  update(
    id: string,
    values: Partial<Pick<JobRow, 'state' | 'phase' | 'progress' | 'message' | 'takeId'>>,
  ): JobRow {
    const next = { ...this.get(id), ...values };
    this.db
      .prepare(
        'UPDATE jobs SET state = @state, phase = @phase, progress = @progress, message = @message, take_id = @takeId WHERE id = @id',
      )
      .run({
        id,
        state: next.state,
        phase: next.phase,
        progress: next.progress,
        message: next.message,
        takeId: next.takeId,
      });
    return next;
  }
}
