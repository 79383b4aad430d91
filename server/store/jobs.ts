import { randomUUID } from 'node:crypto';
import { orNotFound } from '../httpError.ts';
import { orDiskFull } from '../media/diskFile.ts';
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

/** What a render says that the server's end interrupted. */
export const INTERRUPTED = 'Northfen was closed while this was rendering. No take was made; render again.';

const COLUMNS =
  'id, setup_id AS setupId, state, phase, progress, message, take_id AS takeId, created_at AS createdAt';

/** Renders that run, and how the earlier ones ended. */
export class JobStore {
  private readonly db: Db;
  /** How jobs stand that could not be written down, for want of room; the newest word of each. */
  private readonly unwritten = new Map<string, JobRow>();

  constructor(db: Db) {
    this.db = db;
  }

  /** Marks jobs that were running when the process died. Call once, at the start. Returns them. */
  markInterrupted(): JobRow[] {
    const running = this.db.prepare(`SELECT ${COLUMNS} FROM jobs WHERE state = 'running'`).all() as JobRow[];
    this.db
      .prepare("UPDATE jobs SET state = 'interrupted', message = ? WHERE state = 'running'")
      .run(INTERRUPTED);
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
    const row = orNotFound(
      this.db.prepare(`SELECT ${COLUMNS} FROM jobs WHERE id = ?`).get(id) as JobRow | undefined,
      'render',
    );
    return this.unwritten.get(id) ?? row;
  }

  /** The newest jobs of a setup first. */
  list(setupId: string): JobRow[] {
    const rows = this.db
      .prepare(`SELECT ${COLUMNS} FROM jobs WHERE setup_id = ? ORDER BY created_at DESC, rowid DESC LIMIT 20`)
      .all(setupId) as JobRow[];
    return rows.map((row) => this.unwritten.get(row.id) ?? row);
  }

  /**
   * Notes how a job stands. Where the disk has no room for it, it is remembered and written down with the next note that
   * can be.
   */
  update(
    id: string,
    values: Partial<Pick<JobRow, 'state' | 'phase' | 'progress' | 'message' | 'takeId'>>,
  ): JobRow {
    const next = { ...this.get(id), ...values };
    this.unwritten.set(id, next);
    try {
      for (const row of this.unwritten.values()) this.write(row);
      this.unwritten.clear();
    } catch (error) {
      if (orDiskFull(error) === error) throw error;
    }
    return next;
  }

  private write({ id, ...next }: JobRow): void {
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
  }
}
