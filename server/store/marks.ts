import { randomUUID } from 'node:crypto';
import type { Mark, MarkValues } from '../../core/deliver/records.ts';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

const COLUMNS = 'id, at_s AS atS, end_s AS endS, name';

/** Marks that were set in recordings. */
export class MarkStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  /** The marks of a recording, in the order of time. */
  list(checkId: string): Mark[] {
    return this.db
      .prepare(`SELECT ${COLUMNS} FROM marks WHERE check_id = ? ORDER BY at_s, rowid`)
      .all(checkId) as Mark[];
  }

  /** @throws {HttpError} 404 where there is no such mark */
  get(checkId: string, id: string): Mark {
    const row = this.db
      .prepare(`SELECT ${COLUMNS} FROM marks WHERE check_id = ? AND id = ?`)
      .get(checkId, id);
    return orNotFound(row as Mark | undefined, 'mark');
  }

  /** Adds marks, all of them or none. */
  add(checkId: string, marks: MarkValues[]): Mark[] {
    const insert = this.db.prepare(
      'INSERT INTO marks (id, check_id, at_s, end_s, name) VALUES (@id, @checkId, @atS, @endS, @name)',
    );
    return this.db.transaction(() =>
      marks.map((mark) => {
        const id = randomUUID();
        insert.run({ ...mark, id, checkId });
        return { ...mark, id };
      }),
    )();
  }

  change(checkId: string, id: string, values: MarkValues): Mark {
    this.get(checkId, id);
    this.db
      .prepare('UPDATE marks SET at_s = @atS, end_s = @endS, name = @name WHERE id = @id')
      .run({ ...values, id });
    return { ...values, id };
  }

  remove(checkId: string, id: string): void {
    this.db.prepare('DELETE FROM marks WHERE check_id = ? AND id = ?').run(checkId, id);
  }
}
