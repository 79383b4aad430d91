import { randomUUID } from 'node:crypto';
import type { Mark, MarkValues } from '../../core/deliver/records.ts';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

const COLUMNS = 'id, at_s AS atS, end_s AS endS, name';

/** Where marks belong: to recordings, or to the rehearsals of setups. */
const OWNERS = {
  recording: { table: 'marks', owner: 'check_id' },
  rehearsal: { table: 'rehearsal_marks', owner: 'setup_id' },
} as const;

/** Marks that were set in recordings, or while rehearsing. */
export class MarkStore {
  private readonly db: Db;
  private readonly table: string;
  private readonly owner: string;

  constructor(db: Db, of: keyof typeof OWNERS) {
    this.db = db;
    this.table = OWNERS[of].table;
    this.owner = OWNERS[of].owner;
  }

  /** The marks of a recording or a setup, in the order of time. */
  list(ownerId: string): Mark[] {
    return this.db
      .prepare(`SELECT ${COLUMNS} FROM ${this.table} WHERE ${this.owner} = ? ORDER BY at_s, rowid`)
      .all(ownerId) as Mark[];
  }

  /** @throws {HttpError} 404 where there is no such mark */
  get(ownerId: string, id: string): Mark {
    const row = this.db
      .prepare(`SELECT ${COLUMNS} FROM ${this.table} WHERE ${this.owner} = ? AND id = ?`)
      .get(ownerId, id);
    return orNotFound(row as Mark | undefined, 'mark');
  }

  /** Adds marks, all of them or none. */
  add(ownerId: string, marks: MarkValues[]): Mark[] {
    const insert = this.db.prepare(
      `INSERT INTO ${this.table} (id, ${this.owner}, at_s, end_s, name) VALUES (@id, @ownerId, @atS, @endS, @name)`,
    );
    return this.db.transaction(() =>
      marks.map((mark) => {
        const id = randomUUID();
        insert.run({ ...mark, id, ownerId });
        return { ...mark, id };
      }),
    )();
  }

  change(ownerId: string, id: string, values: MarkValues): Mark {
    this.get(ownerId, id);
    this.db
      .prepare(`UPDATE ${this.table} SET at_s = @atS, end_s = @endS, name = @name WHERE id = @id`)
      .run({ ...values, id });
    return { ...values, id };
  }

  remove(ownerId: string, id: string): void {
    this.db.prepare(`DELETE FROM ${this.table} WHERE ${this.owner} = ? AND id = ?`).run(ownerId, id);
  }
}
