import { readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';

const UUID = '[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}';
/** The form of the names that Northfen gives in each of its folders; whatever is called otherwise is left alone. */
const OWN = {
  takes: new RegExp(`^${UUID}$`),
  media: new RegExp(`^${UUID}(\\.[a-z0-9]{1,5})?(\\.part)?$`),
  kept: /^[0-9a-f]{24}\.(f32|cov)(\.part)?$/,
  passages: /^[0-9a-f]{24}\.wav(\.part)?$/,
  prints: /^[0-9a-f]{24}\.print(\.part)?$/,
  parts: /\.part$/,
};

/** Fingerprints of libraries are kept from run to run, in no more than this (bytes; of some 2,500 records). */
const MOST_PRINT_BYTES = 1e9;

/** What the database knows: the ids of all takes, and the file names of all recordings. */
export interface Known {
  takes: Set<string>;
  media: Set<string>;
}

/**
 * Removes what an earlier run left half done: folders of takes and recordings that the database does not know, half-written
 * files, and what was kept of recordings to be quick (it is made anew when it is needed). Only names in Northfen's own
 * form are removed, and only in a folder that is Northfen's own (see `claimDataFolder`).
 */
export function tidyDataFolder(dataDir: string, known: Known): void {
  remove(join(dataDir, 'takes'), (name) => OWN.takes.test(name) && !known.takes.has(name));
  for (const take of known.takes) remove(join(dataDir, 'takes', take), (name) => OWN.parts.test(name));
  remove(join(dataDir, 'media'), (name) => OWN.media.test(name) && !known.media.has(name));
  remove(join(dataDir, 'kept'), (name) => OWN.kept.test(name));
  remove(join(dataDir, 'recordings'), (name) => OWN.parts.test(name));
  remove(join(dataDir, 'passages'), (name) => OWN.passages.test(name));
  tidyPrints(join(dataDir, 'prints'));
}

/** Removes half-written fingerprints, and the oldest where there are too many. */
export function tidyPrints(folder: string): void {
  remove(folder, (name) => OWN.prints.test(name) && OWN.parts.test(name));
  const prints = namesIn(folder)
    .filter((name) => OWN.prints.test(name))
    .map((name) => ({ name, ...statSync(join(folder, name)) }))
    .sort((a, b) => b.mtimeMs - a.mtimeMs);
  let bytes = 0;
  for (const { name, size } of prints) {
    bytes += size;
    if (bytes > MOST_PRINT_BYTES) rmSync(join(folder, name), { force: true });
  }
}

function remove(folder: string, isLeftOver: (name: string) => boolean): void {
  for (const name of namesIn(folder))
    if (isLeftOver(name)) rmSync(join(folder, name), { recursive: true, force: true });
}

function namesIn(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}
