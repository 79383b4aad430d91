import { openFindings } from '../../core/findings/accepted.ts';
import { findingsOf } from '../../core/findings/findings.ts';
import { type Conclusion, conclusionOf } from '../../core/proof/conclusion.ts';
import type { ProofLine } from '../../core/proof/proof.ts';
import type { Take, TakeSummary } from '../../core/records.ts';
import { dayOf } from '../../core/setup/day.ts';
import { migrateSetup } from '../../core/setup/migrations.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

type SummaryRow = Omit<TakeSummary, 'conclusion'> & { conclusion: string };
type TakeRow = SummaryRow & { setup: string; tracks: string; proof: string };

const SUMMARY =
  'id, setup_id AS setupId, name, revision, duration_s AS durationS, bytes, leaks, contradictions, conclusion, created_at AS createdAt';

/** Takes: what was rendered of a setup, and what was measured in it. */
export class TakeStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  list(setupId: string): TakeSummary[] {
    const sql = `SELECT ${SUMMARY} FROM takes WHERE setup_id = ? ORDER BY created_at DESC, rowid DESC`;
    const rows = this.db.prepare(sql).all(setupId) as SummaryRow[];
    return rows.map((row) => ({
      ...row,
      conclusion: row.conclusion ? (JSON.parse(row.conclusion) as Conclusion) : this.get(row.id).conclusion,
    }));
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
    const { conclusion, ...rest } = orNotFound(row, 'take');
    const setup = migrateSetup(JSON.parse(rest.setup)) as unknown as Setup;
    const proof = JSON.parse(rest.proof) as ProofLine[];
    return {
      ...rest,
      setup,
      tracks: JSON.parse(rest.tracks),
      proof,
      conclusion: conclusion ? JSON.parse(conclusion) : concludedLater(setup, proof, rest.createdAt),
    };
  }

  add(take: Omit<Take, 'createdAt'>): Take {
    this.db
      .prepare(
        `INSERT INTO takes (id, setup_id, name, revision, setup, duration_s, bytes, tracks, proof, leaks, contradictions, conclusion, created_at)
         VALUES (@id, @setupId, @name, @revision, @setup, @durationS, @bytes, @tracks, @proof, @leaks, @contradictions, @conclusion, @createdAt)`,
      )
      .run({
        ...take,
        setup: JSON.stringify(take.setup),
        tracks: JSON.stringify(take.tracks),
        proof: JSON.stringify(take.proof),
        conclusion: JSON.stringify(take.conclusion),
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

/** Takes from before conclusions were kept get theirs from what is kept of them, as of the day on which they were made. */
function concludedLater(setup: Setup, proof: ProofLine[], createdAt: string): Conclusion {
  const day = dayOf(new Date(createdAt));
  return conclusionOf(setup, proof, openFindings(setup, findingsOf(setup, day)), day);
}
