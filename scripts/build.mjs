/** Builds the interface into dist/web and the server, its worker and the command into dist/node. */
import { build as esbuild } from 'esbuild';
import { build as vite } from 'vite';
import { root } from './ensure.mjs';

await esbuild({
  absWorkingDir: root,
  entryPoints: { server: 'server/main.ts', worker: 'server/jobs/worker.ts', cli: 'cli/index.ts' },
  outdir: 'dist/node',
  bundle: true,
  packages: 'external',
  platform: 'node',
  target: 'node20',
  format: 'esm',
  splitting: true,
  sourcemap: true,
  logLevel: 'warning',
});
await vite({ root, logLevel: 'warn' });
