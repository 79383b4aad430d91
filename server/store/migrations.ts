/** The database's migrations, in order; the number of a migration is its place, counted from one. Never change one. */
export const MIGRATIONS = [
  `
  CREATE TABLE setups (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    revision INTEGER NOT NULL,
    document TEXT NOT NULL,
    created_at TEXT NOT NULL,
    updated_at TEXT NOT NULL
  );
  CREATE TABLE edits (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    setup_id TEXT NOT NULL REFERENCES setups (id) ON DELETE CASCADE,
    label TEXT NOT NULL,
    change TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0,
    created_at TEXT NOT NULL
  );
  CREATE INDEX edits_by_setup ON edits (setup_id, undone, id);
  CREATE TABLE media (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    file TEXT NOT NULL UNIQUE,
    bytes INTEGER NOT NULL,
    codec TEXT NOT NULL,
    channels INTEGER NOT NULL,
    sample_rate INTEGER NOT NULL,
    duration_s REAL NOT NULL,
    integrated_lufs REAL,
    created_at TEXT NOT NULL
  );
  CREATE TABLE jobs (
    id TEXT PRIMARY KEY,
    setup_id TEXT NOT NULL REFERENCES setups (id) ON DELETE CASCADE,
    state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'cancelled', 'interrupted')),
    phase TEXT NOT NULL,
    progress REAL NOT NULL,
    message TEXT,
    take_id TEXT,
    created_at TEXT NOT NULL
  );
  CREATE TABLE takes (
    id TEXT PRIMARY KEY,
    setup_id TEXT NOT NULL REFERENCES setups (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    revision INTEGER NOT NULL,
    setup TEXT NOT NULL,
    duration_s REAL NOT NULL,
    bytes INTEGER NOT NULL,
    tracks TEXT NOT NULL,
    proof TEXT NOT NULL,
    leaks INTEGER NOT NULL,
    contradictions INTEGER NOT NULL,
    created_at TEXT NOT NULL
  );
  `,
  `
  CREATE TABLE rooms (
    setup_id TEXT PRIMARY KEY REFERENCES setups (id) ON DELETE CASCADE,
    state TEXT NOT NULL
  );
  `,
  `
  CREATE TABLE presets (
    name TEXT PRIMARY KEY,
    processing TEXT NOT NULL
  );
  `,
  `
  ALTER TABLE edits ADD COLUMN window TEXT NOT NULL DEFAULT '';
  ALTER TABLE edits ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
  CREATE TABLE operations (
    id TEXT PRIMARY KEY,
    setup_id TEXT NOT NULL REFERENCES setups (id) ON DELETE CASCADE,
    created_at TEXT NOT NULL
  );
  CREATE INDEX operations_by_setup ON operations (setup_id, created_at);
  `,
  `
  ALTER TABLE takes ADD COLUMN conclusion TEXT NOT NULL DEFAULT '';
  `,
  `
  CREATE TABLE checks (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    place TEXT NOT NULL CHECK (place IN ('folder', 'upload')),
    path TEXT NOT NULL,
    bytes INTEGER NOT NULL,
    duration_s REAL,
    track_count INTEGER,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'idle', 'failed', 'stopped')),
    work TEXT NOT NULL CHECK (work IN ('read', 'check')),
    progress REAL NOT NULL,
    message TEXT,
    verdict TEXT,
    setup_id TEXT,
    inspected TEXT,
    plan TEXT,
    result TEXT,
    created_at TEXT NOT NULL,
    queued_at TEXT NOT NULL,
    checked_at TEXT,
    UNIQUE (place, path)
  );
  CREATE TABLE preferences (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
  );
  `,
  `
  CREATE TABLE marks (
    id TEXT PRIMARY KEY,
    check_id TEXT NOT NULL REFERENCES checks (id) ON DELETE CASCADE,
    at_s REAL NOT NULL,
    end_s REAL,
    name TEXT NOT NULL
  );
  CREATE INDEX marks_by_check ON marks (check_id, at_s);
  CREATE TABLE rehearsal_marks (
    id TEXT PRIMARY KEY,
    setup_id TEXT NOT NULL REFERENCES setups (id) ON DELETE CASCADE,
    at_s REAL NOT NULL,
    end_s REAL,
    name TEXT NOT NULL
  );
  CREATE INDEX rehearsal_marks_by_setup ON rehearsal_marks (setup_id, at_s);
  CREATE TABLE deliveries (
    id TEXT PRIMARY KEY,
    check_id TEXT NOT NULL REFERENCES checks (id) ON DELETE CASCADE,
    made_order TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'stopped')),
    phase TEXT NOT NULL,
    progress REAL NOT NULL,
    message TEXT,
    folder TEXT NOT NULL,
    files TEXT NOT NULL,
    result TEXT,
    go TEXT,
    created_at TEXT NOT NULL,
    queued_at TEXT NOT NULL
  );
  CREATE INDEX deliveries_by_check ON deliveries (check_id, created_at);
  `,
];
