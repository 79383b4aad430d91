/** `npm run bench`: builds and runs bench/ and prints ratios that were measured in one run. Needs Debian's ffmpeg. */
import { spawnSync } from 'node:child_process';
import { build } from 'esbuild';
import { ensureDebian, ensurePackages, root } from './ensure.mjs';

ensurePackages();
ensureDebian({ ffmpeg: 'ffmpeg' });
const outfile = '.cache/bench.mjs';
await build({
  absWorkingDir: root,
  entryPoints: ['bench/main.ts'],
  outfile,
  bundle: true,
  packages: 'external',
  platform: 'node',
  format: 'esm',
  logLevel: 'warning',
});
process.exit(
  spawnSync('node', [outfile, ...process.argv.slice(2)], { cwd: root, stdio: 'inherit' }).status ?? 1,
);
