import { HttpError } from '../httpError.ts';
import { DiskFullError, StorageError } from '../media/diskFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { StalledError } from './runner.ts';

const EXPECTED = [MediaError, DiskFullError, StorageError, StalledError, HttpError];

/** Tells whether an error says something of a file, a disk or a wish, in words for whoever reads it; any other is a fault in Northfen. */
export function isExpected(error: unknown): error is Error {
  return EXPECTED.some((kind) => error instanceof kind);
}
