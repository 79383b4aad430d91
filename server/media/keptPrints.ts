import { createHash } from 'node:crypto';
import { readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type Fingerprint, packPrint, unpackPrint } from '../../core/measure/presence/fingerprint.ts';
import { fingerprintsOf, type TakenPrints } from './fingerprints.ts';
import { once } from './once.ts';

/** Raised whenever fingerprints are taken in another way: what was kept is then not found any more. */
const VERSION = 2;

/**
 * Takes the fingerprint of a file's first track, or reads it where it was kept earlier and the file has not changed since.
 * @param keepIn a folder for fingerprints; null keeps none
 * @throws {MediaError} when it cannot be opened
 */
export async function keptPrint(
  path: string,
  keepIn: string | null,
  onProgress: (share: number) => void = () => {},
): Promise<TakenPrints> {
  if (keepIn === null) return fingerprintsOf(path, [0], onProgress);
  const { size, mtimeMs } = await stat(path);
  const key = createHash('sha256')
    .update(JSON.stringify([VERSION, path, size, mtimeMs]))
    .digest('hex');
  const file = join(keepIn, `${key.slice(0, 24)}.print`);
  const known = await readPrint(file);
  if (known) return { prints: [known], problem: null };
  const taken = await fingerprintsOf(path, [0], onProgress);
  // A file that is damaged may be mended by the time it is asked for again. Without room to keep it, there is nothing lost.
  if (taken.problem === null)
    await once(file, (part) => writeFile(part, packPrint(taken.prints[0]))).catch(() => {});
  return taken;
}

async function readPrint(file: string): Promise<Fingerprint | null> {
  const bytes = await readFile(file).catch(() => null);
  return bytes && unpackPrint(bytes);
}
