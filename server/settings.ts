import { join, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import envPaths from 'env-paths';
import { StartError } from './serve.ts';

/** Files are built into dist/node, two folders below the package's root. */
const root = fileURLToPath(new URL('../../', import.meta.url));

/** Where the parts of the installed package are. */
export const INSTALLED = {
  webDir: fileURLToPath(new URL('../web', import.meta.url)),
  voicesDir: fileURLToPath(new URL('../../assets/voices', import.meta.url)),
  workerFile: fileURLToPath(new URL('./worker.js', import.meta.url)),
};

/** The port when none is chosen. */
export const DEFAULT_PORT = 4780;

/**
 * Returns the data folder when none is chosen: `data` in a working copy of Northfen, the user's own application folder
 * where it was installed as a package (which is replaced with each update).
 */
export function defaultDataDir(packageRoot: string = root): string {
  return packageRoot.split(sep).includes('node_modules')
    ? envPaths('northfen', { suffix: '' }).data
    : `${packageRoot}data`;
}

/** Where the command keeps fingerprints of music files, so that a library is read once: the user's own folder for what can be made again. */
export function commandPrints(): string {
  return join(envPaths('northfen', { suffix: '' }).cache, 'prints');
}

/** Reads a port. @throws {StartError} for anything but a whole number from 0 to 65535 */
export function portOf(text: string): number {
  const port = Number(text);
  if (/^\d{1,5}$/.test(text.trim()) && port <= 65_535) return port;
  throw new StartError(
    `“${text}” is not a port. Choose a whole number from 1024 to 65535 (PORT, or --port), for example ${DEFAULT_PORT}.`,
  );
}
