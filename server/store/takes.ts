import type { Take, TakeSummary } from '../../core/records.ts';
import { migrateSetup } from '../../core/setup/migrations.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

type TakeRow = TakeSummary & { setup: string; tracks: string; proof: string };

const SUMMARY =
  'id, setup_id AS setupId, name, revision, duration_s AS durationS, bytes, leaks, contradictions, created_at AS createdAt';

/** Takes: what was rendered of a setup, and what was measured in it. */
export class TakeStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  list(setupId: string): TakeSummary[] {
    const sql = `SELECT ${SUMMARY} FROM takes WHERE setup_id = ? ORDER BY created_at DESC, rowid DESC`;
    return this.db.prepare(sql).all(setupId) as TakeSummary[];
  }

  /** The ids of all takes of all setups. */
  ids(): string[] {
    return this.db.prepare('SELECT id FROM takes').pluck().all() as string[];
  }

  count(setupId: string): number {
    return this.db.prepare('SELECT count(*) FROM takes WHERE setup_id = ?').pluck().get(setupId) as number;
  }

  get(id: string): Take {
    const row = this.db.prepare(`SELECT ${SUMMARY}, setup, tracks, proof FROM takes WHERE id = ?`).get(id) as
      | TakeRow
      | undefined;
    const { setup, tracks, proof, ...rest } = orNotFound(row, 'take');
    return {
      ...rest,
      setup: migrateSetup(JSON.parse(setup)) as unknown as Setup,
      tracks: JSON.parse(tracks),
      proof: JSON.parse(proof),
    };
  }

  add(take: Omit<Take, 'createdAt'>): Take {
    this.db
      .prepare(
        `INSERT INTO takes (id, setup_id, name, revision, setup, duration_s, bytes, tracks, proof, leaks, contradictions, created_at)
         VALUES (@id, @setupId, @name, @revision, @setup, @durationS, @bytes, @tracks, @proof, @leaks, @contradictions, @createdAt)`,
      )
      .run({
        ...take,
        setup: JSON.stringify(take.setup),
        tracks: JSON.stringify(take.tracks),
        proof: JSON.stringify(take.proof),
        createdAt: new Date().toISOString(),
      });
    return this.get(take.id);
  }

  rename(id: string, name: string): Take {
    this.get(id);
    this.db.prepare('UPDATE takes SET name = ? WHERE id = ?').run(name, id);
    return this.get(id);
  }

  remove(id: string): void {
    this.get(id);
    this.db.prepare('DELETE FROM takes WHERE id = ?').run(id);
  }
}
