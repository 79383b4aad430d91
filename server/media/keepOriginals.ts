import { stat } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { MediaError } from './mediaError.ts';

/**
 * Refuses to write over a file that something is made of, by whatever name or link it is called.
 * @throws {MediaError} when the new file would lie over one of the originals
 */
export async function refuseOver(outPath: string, originals: (string | null)[]): Promise<void> {
  const there = await stat(outPath).catch(() => null);
  for (const original of originals) {
    if (original === null) continue;
    const info = there && (await stat(original).catch(() => null));
    const isOne = info && info.ino === there.ino && info.dev === there.dev;
    if (isOne || resolve(original) === resolve(outPath))
      throw new MediaError(
        'unsupported',
        `${basename(original)} would be written over itself. Choose another name, so that the original stays.`,
      );
  }
}
