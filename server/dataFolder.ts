import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { DiskFullError, orDiskFull, StorageError } from './media/diskFile.ts';

/** Thrown when a folder cannot serve as data folder; the message says why and what to do. */
export class DataFolderError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'DataFolderError';
  }
}

/** A folder that this process alone works in, until it is released. */
export interface DataFolder {
  path: string;
  /** Writes down under which address this Northfen answers, so that a second start can say it. */
  setAddress(address: string): void;
  release(): void;
}

/** The mark by which a folder is known to be Northfen's. */
const MARK = 'northfen-data.json';
const LOCK = 'northfen.lock';
const ADDRESS = 'northfen.address';
/** What Northfen before it had a mark left in its folder. */
const OWN_NAMES =
  /^(northfen\.sqlite(-wal|-shm|-journal)?|northfen\.lock(-journal)?|northfen\.address|media|takes|kept)$/;
/** What operating systems leave in any folder. */
const SYSTEM_NAMES = /^(\.DS_Store|\._.*|Thumbs\.db|desktop\.ini|\.localized|lost\+found)$/;

/**
 * Takes a folder for Northfen's data: makes it when it is not there, marks it, and locks it. Nothing in it is touched before
 * it is known to be Northfen's own and to be used by nobody else. The lock is the operating system's (SQLite's exclusive
 * lock on a file), so that it goes with the process, however that ends.
 * @throws {DataFolderError} when it is a file, has other things in it, cannot be written to, or is in use
 */
export function claimDataFolder(folder: string): DataFolder {
  const path = resolve(folder);
  try {
    mkdirSync(path, { recursive: true });
    requireOwn(path);
    if (!existsSync(join(path, MARK))) writeMark(path);
    return lock(path);
  } catch (error) {
    throw inWords(error, path);
  }
}

function requireOwn(path: string): void {
  if (existsSync(join(path, MARK))) return;
  const names = readdirSync(path).filter((name) => !SYSTEM_NAMES.test(name));
  if (names.length === 0) return;
  const others = names.filter((name) => !OWN_NAMES.test(name));
  if (others.length === 0 && isDatabase(join(path, 'northfen.sqlite'))) return;
  const shown = (others.length > 0 ? others : names).slice(0, 3).join(', ');
  throw new DataFolderError(
    `The folder ${path} has other things in it (${shown}). Northfen keeps its data in a folder of its own: choose an empty or a new one, for example ${join(path, 'northfen')}. Nothing was touched.`,
  );
}

function isDatabase(file: string): boolean {
  return existsSync(file) && readFileSync(file).subarray(0, 15).toString('latin1') === 'SQLite format 3';
}

/** The mark is there whole or not at all. */
function writeMark(path: string): void {
  const part = join(path, `${MARK}.part`);
  const text = 'This folder belongs to Northfen. Recordings, takes and setups are in it.';
  try {
    writeFileSync(part, `${JSON.stringify({ format: 'northfen.data', version: 1, text }, null, 2)}\n`);
    renameSync(part, join(path, MARK));
  } catch (error) {
    rmSync(part, { force: true });
    throw error;
  }
}

function lock(path: string): DataFolder {
  const database = new Database(join(path, LOCK), { timeout: 500 });
  try {
    database.exec('BEGIN EXCLUSIVE');
  } catch (error) {
    database.close();
    throw error;
  }
  const address = join(path, ADDRESS);
  return {
    path,
    setAddress: (text) => {
      try {
        writeFileSync(address, text);
      } catch {
        // A second start then says less; nothing else depends on it.
      }
    },
    release: () => {
      rmSync(address, { force: true });
      database.close();
    },
  };
}

function inWords(error: unknown, path: string): unknown {
  if (error instanceof DataFolderError) return error;
  const { code } = error as { code?: string };
  if (code === 'SQLITE_BUSY') {
    const address = readAddress(path);
    return new DataFolderError(
      `Another Northfen is working in ${path}${address ? `; open ${address}` : ''}. Stop it first, or start this one with another data folder and port. Nothing was touched.`,
    );
  }
  if (code === 'EEXIST' || code === 'ENOTDIR') {
    const isFile = existsSync(path) && !statSync(path).isDirectory();
    return new DataFolderError(
      `${path} ${isFile ? 'is a file, not a folder' : 'lies below a file, so it cannot be a folder'}. Choose another data folder.`,
    );
  }
  const known = orDiskFull(error);
  if (known instanceof DiskFullError)
    return new DataFolderError(
      `The disk that ${path} lies on is full. Free some space, or choose a data folder on another disk, and start again.`,
    );
  if (known instanceof StorageError)
    return new DataFolderError(
      `The data folder ${path} cannot be written to (${known.reason}). Make it writable, or choose another one, and start again.`,
    );
  return error;
}

function readAddress(path: string): string | null {
  try {
    const text = readFileSync(join(path, ADDRESS), 'utf8').trim();
    return /^http:\/\/[\w.:[\]-]+$/.test(text) ? text : null;
  } catch {
    return null;
  }
}
