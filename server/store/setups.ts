import { randomUUID } from 'node:crypto';
import type { HistoryEntry, SetupSummary, StoredSetup } from '../../core/records.ts';
import {
  ChangeConflict,
  changeBetween,
  isEmptyChange,
  replayChange,
  reverseChange,
  type SetupChange,
} from '../../core/setup/change.ts';
import { applyEdit, type Edit } from '../../core/setup/edits.ts';
import { describeEdit } from '../../core/setup/editWords.ts';
import { parseSetup, SetupFileError } from '../../core/setup/file.ts';
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

/** Who asks: a window takes back what it did itself, and what had been done before it was opened. */
export interface Author {
  /** Names the window; empty for a program that is none. */
  window: string;
  /** The revision at which the window was opened; a program takes back whatever was done last. */
  openedAt: number;
  /** Names this very request, so that one that is sent twice is carried out once. */
  operation?: string;
}

const ANYBODY: Author = { window: '', openedAt: Number.MAX_SAFE_INTEGER };
/** So many operations of a setup are remembered. */
const REMEMBERED = 500;

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
  get(id: string, by: Author = ANYBODY): StoredSetup {
    const row = this.row(id);
    return {
      id,
      revision: row.revision,
      setup: setupOf(row.document),
      undo: this.lastEdit(id, by)?.label ?? null,
      redo: this.nextRedo(id, by)?.label ?? null,
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
  edit(id: string, revision: number, edit: Edit, by: Author = ANYBODY): StoredSetup {
    return this.transact(id, revision, by, (setup) => {
      const after = parseSetup(applyEdit(setup, edit));
      const change = changeBetween(setup, after);
      if (isEmptyChange(change)) return null;
      this.db
        .prepare('DELETE FROM edits WHERE setup_id = ? AND undone = 1 AND window = ?')
        .run(id, by.window);
      this.db
        .prepare(
          'INSERT INTO edits (setup_id, label, change, created_at, window, revision) VALUES (?, ?, ?, ?, ?, ?)',
        )
        .run(
          id,
          describeEdit(edit, edit.edit.startsWith('remove') ? setup : after),
          JSON.stringify(change),
          new Date().toISOString(),
          by.window,
          revision + 1,
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

  /** @throws {HttpError} 409 when there is nothing to undo, it was changed otherwise since, or the revision is stale */
  undo(id: string, revision: number, by: Author = ANYBODY): StoredSetup {
    return this.transact(id, revision, by, (setup) => {
      const last = this.lastEdit(id, by);
      if (!last) throw new HttpError(409, 'nothing-to-undo', 'There is nothing to undo.');
      return this.takenBack(setup, last, by);
    });
  }

  /** @throws {HttpError} 409 when there is nothing to redo, it was changed otherwise since, or the revision is stale */
  redo(id: string, revision: number, by: Author = ANYBODY): StoredSetup {
    return this.transact(id, revision, by, (setup) => {
      const next = this.nextRedo(id, by);
      if (!next) throw new HttpError(409, 'nothing-to-redo', 'There is nothing to redo.');
      this.db.prepare('UPDATE edits SET undone = 0 WHERE id = ?').run(next.id);
      return replayed(setup, changeOf(next.change), `“${next.label}” cannot be done again`);
    });
  }

  /** The edits of a setup, the newest first: at most 200. */
  history(id: string): HistoryEntry[] {
    this.row(id);
    const rows = this.db
      .prepare(
        'SELECT id, label, created_at AS createdAt, undone FROM edits WHERE setup_id = ? ORDER BY id DESC LIMIT 200',
      )
      .all(id) as (Omit<HistoryEntry, 'undone'> & { undone: number })[];
    return rows.map((row) => ({ ...row, undone: row.undone === 1 }));
  }

  /**
   * Takes back every edit that came after one of the history (all, for 0), whoever made it; each can be done again.
   * @throws {HttpError} 409 when one of them cannot be taken back, or the revision is stale
   */
  back(id: string, revision: number, editId: number, by: Author = ANYBODY): StoredSetup {
    return this.transact(id, revision, by, (setup) => {
      const later = this.db
        .prepare(
          'SELECT id, label, change FROM edits WHERE setup_id = ? AND undone = 0 AND id > ? ORDER BY id DESC',
        )
        .all(id, editId) as EditRow[];
      if (later.length === 0) return null;
      return later.reduce<Setup>((now, edit) => this.takenBack(now, edit, by), setup);
    });
  }

  private takenBack(setup: Setup, edit: EditRow, by: Author): Setup {
    this.db.prepare('UPDATE edits SET undone = 1, window = ? WHERE id = ?').run(by.window, edit.id);
    return replayed(setup, reverseChange(changeOf(edit.change)), `“${edit.label}” cannot be undone`);
  }

  private transact(
    id: string,
    revision: number,
    by: Author,
    step: (setup: Setup) => Setup | null,
  ): StoredSetup {
    return this.db.transaction(() => {
      const row = this.row(id);
      if (by.operation && this.isDone(by.operation)) return this.get(id, by);
      requireRevision(row, revision);
      const after = step(setupOf(row.document));
      if (by.operation) this.remember(id, by.operation);
      if (after) {
        this.db
          .prepare(
            'UPDATE setups SET name = ?, revision = revision + 1, document = ?, updated_at = ? WHERE id = ?',
          )
          .run(after.name, JSON.stringify(after), new Date().toISOString(), id);
      }
      return this.get(id, by);
    })();
  }

  private isDone(operation: string): boolean {
    return this.db.prepare('SELECT 1 FROM operations WHERE id = ?').get(operation) !== undefined;
  }

  private remember(id: string, operation: string): void {
    this.db
      .prepare('INSERT INTO operations (id, setup_id, created_at) VALUES (?, ?, ?)')
      .run(operation, id, new Date().toISOString());
    this.db
      .prepare(
        `DELETE FROM operations WHERE setup_id = ? AND rowid <=
           (SELECT rowid FROM operations WHERE setup_id = ? ORDER BY rowid DESC LIMIT 1 OFFSET ?)`,
      )
      .run(id, id, REMEMBERED);
  }

  private row(id: string): SetupRow {
    const row = this.db.prepare('SELECT id, revision, document FROM setups WHERE id = ?').get(id) as
      | SetupRow
      | undefined;
    return orNotFound(row, 'setup');
  }

  private lastEdit(id: string, { window, openedAt }: Author): EditRow | undefined {
    const sql = `SELECT id, label, change FROM edits
       WHERE setup_id = ? AND undone = 0 AND (window = ? OR revision <= ?) ORDER BY id DESC LIMIT 1`;
    return this.db.prepare(sql).get(id, window, openedAt) as EditRow | undefined;
  }

  private nextRedo(id: string, { window, openedAt }: Author): EditRow | undefined {
    const sql = `SELECT id, label, change FROM edits
       WHERE setup_id = ? AND undone = 1 AND (window = ? OR revision <= ?) ORDER BY id LIMIT 1`;
    return this.db.prepare(sql).get(id, window, openedAt) as EditRow | undefined;
  }
}

function replayed(setup: Setup, change: SetupChange, trouble: string): Setup {
  try {
    const after = replayChange(setup, change);
    return isExactly(setup, change) ? after : parseSetup(after);
  } catch (error) {
    const isExpected = error instanceof ChangeConflict || error instanceof SetupFileError;
    if (!isExpected) throw error;
    throw new HttpError(
      409,
      'changed-since',
      `${trouble} by itself: what it changed was changed again since, perhaps in another window. Take that back first, or change it by hand.`,
    );
  }
}

/** Tells whether nothing else was changed since, so that the change leads to a state that was there before. */
function isExactly(setup: Setup, change: SetupChange): boolean {
  return Object.entries(change).every(
    ([part, { before }]) => JSON.stringify(setup[part as keyof Setup]) === JSON.stringify(before),
  );
}

function requireRevision(row: SetupRow, revision: number): void {
  if (row.revision !== revision)
    throw new HttpError(
      409,
      'stale',
      'This setup was changed in another window in the meantime, so the change was not made. Look at the newest state and make it again.',
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
