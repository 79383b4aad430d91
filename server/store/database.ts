import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { DataFolderError } from '../dataFolder.ts';
import { MIGRATIONS } from './migrations.ts';

export type Db = Database.Database;

/** Opens (or creates) the database in a folder and brings it to the newest migration. */
export function openDatabase(folder: string): Db {
  mkdirSync(folder, { recursive: true });
  const file = join(folder, 'northfen.sqlite');
  const db = new Database(file);
  try {
    db.pragma('journal_mode = WAL');
    db.pragma('foreign_keys = ON');
    migrate(db);
    return db;
  } catch (error) {
    db.close();
    const { code } = error as { code?: string };
    if (code === 'SQLITE_NOTADB' || code?.startsWith('SQLITE_CORRUPT'))
      throw new DataFolderError(
        `The database ${file} is damaged and cannot be opened. Put back a copy of it, or move it elsewhere to start afresh; nothing was changed.`,
      );
    throw error;
  }
}

function migrate(db: Db): void {
  const done = db.pragma('user_version', { simple: true }) as number;
  if (done > MIGRATIONS.length) {
    throw new DataFolderError(
      'The data folder was written by a newer Northfen. Start that one, or set NORTHFEN_DATA_DIR to another folder.',
    );
  }
  for (let index = done; index < MIGRATIONS.length; index++) {
    db.transaction(() => {
      db.exec(MIGRATIONS[index]);
      db.pragma(`user_version = ${index + 1}`);
    })();
  }
}
