/** `npm start`: as `npm run demo`, but without demo data: with your own setups. */
import { ensureBuild, ensurePackages, root } from './ensure.mjs';

process.chdir(root);
ensurePackages();
ensureBuild();
process.env.NORTHFEN_DEMO = '0';
await import('../dist/node/server.js');
