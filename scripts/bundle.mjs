import { join } from 'node:path';
import { build } from 'esbuild';
import { root } from './ensure.mjs';

/** Bundles a TypeScript entry for Node into `.cache`, packages left out, and returns the path of the result. */
export async function bundle(entry, name) {
  const outfile = join(root, '.cache', `${name}.mjs`);
  await build({
    absWorkingDir: root,
    entryPoints: [entry],
    outfile,
    bundle: true,
    packages: 'external',
    platform: 'node',
    format: 'esm',
    logLevel: 'warning',
  });
  return outfile;
}
