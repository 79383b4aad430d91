import { randomUUID } from 'node:crypto';
import type { SetupSummary, StoredSetup } from '../../core/records.ts';
import {
  changeBetween,
  isEmptyChange,
  replayChange,
  reverseChange,
  type SetupChange,
} from '../../core/setup/change.ts';
import { applyEdit, describeEdit, type Edit } from '../../core/setup/edits.ts';
import { parseSetup } from '../../core/setup/file.ts';
import { migratePart, migrateSetup } from '../../core/setup/migrations.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { HttpError, orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

export type { StoredSetup };

interface SetupRow {
  id: string;
  revision: number;
  document: string;
}

interface EditRow {
  id: number;
  label: string;
  change: string;
}

/** Setups and their edits. Every change of a setup is one transaction that raises its revision by one. */
export class SetupStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  list(): SetupSummary[] {
    return this.db
      .prepare('SELECT id, name, revision, updated_at AS updatedAt FROM setups ORDER BY created_at, rowid')
      .all() as SetupSummary[];
  }

  create(setup: Setup, id: string = randomUUID()): StoredSetup {
    const now = new Date().toISOString();
    this.db
      .prepare(
        'INSERT INTO setups (id, name, revision, document, created_at, updated_at) VALUES (?, ?, 1, ?, ?, ?)',
      )
      .run(id, setup.name, JSON.stringify(setup), now, now);
    return this.get(id);
  }

  /** @throws {HttpError} 404 when there is no such setup */
  get(id: string): StoredSetup {
    const row = this.row(id);
    return {
      id,
      revision: row.revision,
      setup: setupOf(row.document),
      undo: this.lastEdit(id)?.label ?? null,
      redo: this.nextRedo(id)?.label ?? null,
    };
  }

  remove(id: string): void {
    this.row(id);
    this.db.prepare('DELETE FROM setups WHERE id = ?').run(id);
  }

  /**
   * Applies an edit that was made on the given revision.
   * @throws {HttpError} 409 when the setup has moved on; {EditError} or {SetupFileError} when a rule would be broken
   */
  edit(id: string, revision: number, edit: Edit): StoredSetup {
    return this.transact(id, revision, (setup) => {
      const after = parseSetup(applyEdit(setup, edit));
      const change = changeBetween(setup, after);
      if (isEmptyChange(change)) return null;
      this.db.prepare('DELETE FROM edits WHERE setup_id = ? AND undone = 1').run(id);
      this.db
        .prepare('INSERT INTO edits (setup_id, label, change, created_at) VALUES (?, ?, ?, ?)')
        .run(
          id,
          describeEdit(edit, edit.edit.startsWith('remove') ? setup : after),
          JSON.stringify(change),
          new Date().toISOString(),
        );
      return after;
    });
  }

  /**
   * Returns a setup with an edit that is not made.
   * @throws as {@link edit} does
   */
  tried(id: string, revision: number, edit: Edit): Setup {
    const row = this.row(id);
    requireRevision(row, revision);
    return parseSetup(applyEdit(setupOf(row.document), edit));
  }

  /** @throws {HttpError} 409 when there is nothing to undo, or the revision is stale */
  undo(id: string, revision: number): StoredSetup {
    return this.transact(id, revision, (setup) => {
      const last = this.lastEdit(id);
      if (!last) throw new HttpError(409, 'nothing-to-undo', 'There is nothing to undo.');
      this.db.prepare('UPDATE edits SET undone = 1 WHERE id = ?').run(last.id);
      return replayChange(setup, reverseChange(changeOf(last.change)));
    });
  }

  /** @throws {HttpError} 409 when there is nothing to redo, or the revision is stale */
  redo(id: string, revision: number): StoredSetup {
    return this.transact(id, revision, (setup) => {
      const next = this.nextRedo(id);
      if (!next) throw new HttpError(409, 'nothing-to-redo', 'There is nothing to redo.');
      this.db.prepare('UPDATE edits SET undone = 0 WHERE id = ?').run(next.id);
      return replayChange(setup, changeOf(next.change));
    });
  }

  private transact(id: string, revision: number, step: (setup: Setup) => Setup | null): StoredSetup {
    return this.db.transaction(() => {
      const row = this.row(id);
      requireRevision(row, revision);
      const after = step(setupOf(row.document));
      if (after) {
        this.db
          .prepare(
            'UPDATE setups SET name = ?, revision = revision + 1, document = ?, updated_at = ? WHERE id = ?',
          )
          .run(after.name, JSON.stringify(after), new Date().toISOString(), id);
      }
      return this.get(id);
    })();
  }

  private row(id: string): SetupRow {
    const row = this.db.prepare('SELECT id, revision, document FROM setups WHERE id = ?').get(id) as
      | SetupRow
      | undefined;
    return orNotFound(row, 'setup');
  }

  private lastEdit(id: string): EditRow | undefined {
    const sql =
      'SELECT id, label, change FROM edits WHERE setup_id = ? AND undone = 0 ORDER BY id DESC LIMIT 1';
    return this.db.prepare(sql).get(id) as EditRow | undefined;
  }

  private nextRedo(id: string): EditRow | undefined {
    const sql = 'SELECT id, label, change FROM edits WHERE setup_id = ? AND undone = 1 ORDER BY id LIMIT 1';
    return this.db.prepare(sql).get(id) as EditRow | undefined;
  }
}

function requireRevision(row: SetupRow, revision: number): void {
  if (row.revision !== revision)
    throw new HttpError(
      409,
      'stale',
      'This setup was changed in another window in the meantime. Your last change was not applied; look at the newest state and make it again.',
    );
}

/** A stored setup may have been written by an earlier Northfen. */
function setupOf(document: string): Setup {
  return migrateSetup(JSON.parse(document)) as unknown as Setup;
}

function changeOf(json: string): SetupChange {
  const parts = Object.entries(JSON.parse(json) as SetupChange).map(([part, { before, after }]) => [
    part,
    { before: migratePart(part, before), after: migratePart(part, after) },
  ]);
  return Object.fromEntries(parts) as SetupChange;
}
