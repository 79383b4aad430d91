/**
 * `npm run attack [media|kills|making|disk|memory]`: tries to break Northfen with damaged files, kills, jobs that are ended, a full disk and many renders.
 * Takes some ten minutes; its end says what went wrong.
 */
import { ensureBuild, ensurePackages, root, start } from './ensure.mjs';

process.chdir(root);
ensurePackages();
ensureBuild();
const { bundle } = await import('./bundle.mjs');
const outfile = await bundle('attack/main.ts', 'attack');
process.exit(start(process.execPath, [outfile, ...process.argv.slice(2)]).status ?? 1);
