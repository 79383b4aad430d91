import type { Preset } from '../../core/records.ts';
import type { Db } from './database.ts';

/** Processings that were given a name, for use on other sources and in other setups. */
export class PresetStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  list(): Preset[] {
    const rows = this.db.prepare('SELECT name, processing FROM presets ORDER BY name').all() as {
      name: string;
      processing: string;
    }[];
    return rows.map(({ name, processing }) => ({ name, processing: JSON.parse(processing) }));
  }

  /** Keeps a preset; one of the same name is replaced. */
  set({ name, processing }: Preset): void {
    this.db
      .prepare(
        'INSERT INTO presets (name, processing) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET processing = excluded.processing',
      )
      .run(name, JSON.stringify(processing));
  }

  remove(name: string): void {
    this.db.prepare('DELETE FROM presets WHERE name = ?').run(name);
  }
}
