/** `npm run pack`: builds, and packs what `npm install` needs to run Northfen from an empty folder. */
import { ensureBuild, ensurePackages, root, runNpm } from './ensure.mjs';

process.chdir(root);
ensurePackages();
ensureBuild();
runNpm(['pack', '--silent', ...process.argv.slice(2)]);
