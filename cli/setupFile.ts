import { access, readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
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

/** Finds the recording of each source beside the setup file. @throws {Error} naming the one that is missing */
export async function findMedia(setup: Setup, folder: string): Promise<Record<string, string>> {
  const files: Record<string, string> = {};
  for (const [index, source] of setup.sources.entries()) {
    if (!source.media) continue;
    const path = resolve(folder, source.media.path);
    await access(path).catch(() => {
      throw new Error(
        `sources[${index}].media.path: there is no file ${source.media?.path} beside the setup file. Put it there, or correct the path.`,
      );
    });
    files[source.id] = path;
  }
  return files;
}
