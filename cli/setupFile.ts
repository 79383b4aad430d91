import { readFile } from 'node:fs/promises';
import { readSetupFile } from '../core/setup/file.ts';
import type { Setup } from '../core/setup/schema.ts';

/** Reads a setup file from disk. @throws {Error} with a sentence that names the file when it is not there */
export async function loadSetup(path: string): Promise<Setup> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new Error(`there is no setup file ${path}. Check the path.`);
  });
  return readSetupFile(text);
}

/** Today as `YYYY-MM-DD`, for clearances that expire. */
export function today(): string {
  return new Date().toISOString().slice(0, 10);
}
