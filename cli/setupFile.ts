import { readFile, realpath, stat } from 'node:fs/promises';
import { relative, resolve, sep } from 'node:path';
import { dayOf } from '../core/setup/day.ts';
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
  return dayOf(new Date());
}

/** Options for finding recordings: `anywhere` also takes those that a link leads to outside of the setup's folder. */
export interface FindMediaOptions {
  anywhere?: boolean;
}

/**
 * Finds the recording of each source beside the setup file.
 * @throws {Error} naming the one that is missing, is no file, or lies outside of the setup's folder by way of a link
 */
export async function findMedia(
  setup: Setup,
  folder: string,
  { anywhere = false }: FindMediaOptions = {},
): Promise<Record<string, string>> {
  const files: [id: string, path: string][] = [];
  const realFolder = await realpath(folder);
  for (const [index, source] of setup.sources.entries()) {
    if (!source.media) continue;
    const field = `sources[${index}].media.path`;
    const path = resolve(folder, source.media.path);
    const real = await realpath(path).catch(() => {
      throw new Error(
        `${field}: there is no file ${source.media?.path} beside the setup file. Put it there, or correct the path.`,
      );
    });
    if (!(await stat(real)).isFile())
      throw new Error(
        `${field}: ${source.media.path} is no file (a folder, a pipe or a device). Choose a file.`,
      );
    const isWhereWritten = real === resolve(realFolder, source.media.path);
    if (!anywhere && !isWhereWritten && relative(realFolder, real).split(sep)[0] === '..')
      throw new Error(
        `${field}: ${source.media.path} is a link that leads out of the setup file's folder. Copy the recording there, or allow it with --media-anywhere.`,
      );
    files.push([source.id, path]);
  }
  return Object.fromEntries(files);
}
