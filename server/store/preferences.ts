import type { Db } from './database.ts';

/** What somebody chose for all of Northfen, by name. */
export class PreferenceStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  /** Returns what was chosen, or `initial` where nothing was. */
  get<T>(name: string, initial: T): T {
    const value = this.db.prepare('SELECT value FROM preferences WHERE name = ?').pluck().get(name);
    return typeof value === 'string' ? (JSON.parse(value) as T) : initial;
  }

  set(name: string, value: unknown): void {
    this.db
      .prepare(
        'INSERT INTO preferences (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value',
      )
      .run(name, JSON.stringify(value));
  }
}
