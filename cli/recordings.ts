import { realpath, stat } from 'node:fs/promises';
import { basename, join, resolve, sep } from 'node:path';
import { watch } from 'chokidar';
import { listRecordings, mayBeRecording } from '../server/media/mediaFolder.ts';

/** A recording that was named, or lies in a folder that was named. */
export interface NamedRecording {
  path: string;
  /** How it is called here: below the folder that was named. */
  name: string;
}

/** A recording that is still being written is waited for until it has not grown for so long (ms). */
const WHOLE_AFTER_MS = 5_000;

/** Tells whether what was named is one recording: then what is said of it stands by itself. */
export async function isOneFile(paths: string[]): Promise<boolean> {
  return paths.length === 1 && !(await isFolder(paths[0]));
}

/** The recordings that were named: files as they are, folders with all that is in them, by their names. @throws where a folder cannot be read, or there is none at all */
export async function namedRecordings(paths: string[]): Promise<NamedRecording[]> {
  const found: NamedRecording[] = [];
  for (const path of paths) {
    if (!(await isFolder(path))) {
      found.push({ path: resolve(path), name: basename(path) });
      continue;
    }
    const { files, isCut } = await listRecordings(resolve(path));
    if (isCut) throw new Error(`${path} holds more recordings than can be listed. Name the folders in it.`);
    const names = files.map((file) => file.path).sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
    found.push(...names.map((name) => ({ path: join(resolve(path), name), name })));
  }
  if (found.length === 0)
    throw new Error(
      `there is no recording in ${paths.join(', ')}. Name files, or folders with recordings in them.`,
    );
  const seen = new Set<string>();
  return found.filter(({ path }) => !seen.has(path) && seen.add(path));
}

/**
 * Watches folders: yields each recording in them once it is whole, and each that comes, until it is stopped.
 * @throws where one of them is no folder
 */
export async function* arrivingRecordings(
  folders: string[],
  signal: AbortSignal,
): AsyncGenerator<NamedRecording, void, undefined> {
  for (const folder of folders)
    if (!(await isFolder(folder))) throw new Error(`${folder} is no folder. Only folders can be watched.`);
  const roots = await Promise.all(folders.map((folder) => realpath(folder)));
  const waiting: NamedRecording[] = [];
  let wake = () => {};
  const watcher = watch(roots, {
    followSymlinks: false,
    awaitWriteFinish: { stabilityThreshold: WHOLE_AFTER_MS, pollInterval: 500 },
  }).on('add', (path) => {
    const root = roots.find((one) => path.startsWith(one + sep)) ?? '';
    if (mayBeRecording(path)) waiting.push({ path, name: path.slice(root.length + 1) });
    wake();
  });
  signal.addEventListener('abort', () => wake(), { once: true });
  try {
    while (!signal.aborted) {
      const next = waiting.shift();
      if (next) yield next;
      else
        await new Promise<void>((resolveWaiting) => {
          wake = resolveWaiting;
        });
    }
  } finally {
    await watcher.close();
  }
}

async function isFolder(path: string): Promise<boolean> {
  return (await stat(path).catch(() => null))?.isDirectory() ?? false;
}
