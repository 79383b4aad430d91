/** `npm run demo`: installs and builds what is missing, makes the demo data, and serves on http://127.0.0.1:4780. */
import { ensureBuild, ensurePackages, root } from './ensure.mjs';

process.chdir(root);
ensurePackages();
ensureBuild();
process.env.NORTHFEN_DEMO = '1';
await import('../dist/node/server.js');
