import { join } from 'node:path';
import type { Media as MediaRow } from '../../core/records.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { HttpError, orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

const COLUMNS =
  'id, name, file, bytes, codec, channels, sample_rate AS sampleRate, duration_s AS durationS, integrated_lufs AS integratedLufs';

/** The path under which a setup names a recording of the media folder. */
export function mediaPath(file: string): string {
  return `media/${file}`;
}

/** The recordings that setups can rehearse with. */
export class MediaStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  list(): MediaRow[] {
    return this.db.prepare(`SELECT ${COLUMNS} FROM media ORDER BY name, created_at`).all() as MediaRow[];
  }

  get(id: string): MediaRow {
    return orNotFound(
      this.db.prepare(`SELECT ${COLUMNS} FROM media WHERE id = ?`).get(id) as MediaRow | undefined,
      'recording',
    );
  }

  /** Returns the recording that setups name by a path. @throws {HttpError} 404 when it is not there any more */
  at(path: string): MediaRow {
    const row = this.list().find((one) => mediaPath(one.file) === path);
    if (!row) throw new HttpError(404, 'not-found', `There is no recording ${path} any more.`);
    return row;
  }

  add(row: MediaRow): MediaRow {
    this.db
      .prepare(
        `INSERT INTO media (id, name, file, bytes, codec, channels, sample_rate, duration_s, integrated_lufs, created_at)
         VALUES (@id, @name, @file, @bytes, @codec, @channels, @sampleRate, @durationS, @integratedLufs, @createdAt)`,
      )
      .run({ ...row, createdAt: new Date().toISOString() });
    return row;
  }

  remove(id: string): void {
    this.db.prepare('DELETE FROM media WHERE id = ?').run(id);
  }

  /** Returns the file of each source's recording that is there, by source id; absolute, given the data folder. */
  filesOf(setup: Setup, dataDir: string): Record<string, string> {
    const known = new Set(this.list().map((row) => mediaPath(row.file)));
    return Object.fromEntries(
      setup.sources.flatMap((source) =>
        source.media && known.has(source.media.path) ? [[source.id, join(dataDir, source.media.path)]] : [],
      ),
    );
  }
}
