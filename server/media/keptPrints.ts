import { createHash } from 'node:crypto';
import { readFile, stat, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { breakOffWords } from '../../core/check/recording.ts';
import {
  type Fingerprint,
  PRINT_RATE,
  packPrint,
  unpackPrint,
} from '../../core/measure/presence/fingerprint.ts';
import { breakOffOf } from './breakOff.ts';
import { fingerprintsOf } from './fingerprints.ts';
import { once } from './once.ts';

/** Raised whenever fingerprints are taken in another way: what was kept is then not found any more. */
const VERSION = 3;

/** The fingerprint of a file as far as it can be read; and why that is not to its end, or null. */
export interface KeptPrint {
  print: Fingerprint;
  problem: string | null;
}

/**
 * Takes the fingerprint of a file's first track, or reads it where it was kept earlier and the file has not changed since.
 * @param keepIn a folder for fingerprints; null keeps none
 * @throws {MediaError} when it cannot be opened
 */
export async function keptPrint(
  path: string,
  keepIn: string | null,
  onProgress: (share: number) => void = () => {},
): Promise<KeptPrint> {
  if (keepIn === null) return printOf(path, onProgress);
  const { size, mtimeMs } = await stat(path);
  const key = createHash('sha256')
    .update(JSON.stringify([VERSION, path, size, mtimeMs]))
    .digest('hex');
  const file = join(keepIn, `${key.slice(0, 24)}.print`);
  const known = await readPrint(file);
  if (known) return { print: known, problem: null };
  const taken = await printOf(path, onProgress);
  // A file that is damaged may be mended by the time it is asked for again. Without room to keep it, there is nothing lost.
  if (taken.problem === null)
    await once(file, (part) => writeFile(part, packPrint(taken.print))).catch(() => {});
  return taken;
}

async function printOf(path: string, onProgress: (share: number) => void): Promise<KeptPrint> {
  const { prints, saidS, problem } = await fingerprintsOf(path, [0], onProgress);
  const [print] = prints;
  const breakOff = problem === null ? await breakOffOf(path, saidS, print.frames / PRINT_RATE) : null;
  return { print, problem: breakOff ? breakOffWords(breakOff, basename(path)) : problem };
}

async function readPrint(file: string): Promise<Fingerprint | null> {
  const bytes = await readFile(file).catch(() => null);
  return bytes && unpackPrint(bytes);
}
