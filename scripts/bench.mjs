/** `npm run bench`: builds and runs bench/ and prints ratios that were measured in one run. Needs Debian's ffmpeg and chromium. */
import { spawnSync } from 'node:child_process';
import { ensureBuild, ensureDebian, ensurePackages, root } from './ensure.mjs';

ensurePackages();
ensureDebian({ ffmpeg: 'ffmpeg', chromium: 'chromium' });
ensureBuild();
const { bundle } = await import('./bundle.mjs');
const outfile = await bundle('bench/main.ts', 'bench');
process.exit(
  spawnSync(process.execPath, [outfile, ...process.argv.slice(2)], { cwd: root, stdio: 'inherit' }).status ??
    1,
);
