#!/usr/bin/env node
/** The northfen command: builds itself when needed, then runs. */
import { existsSync } from 'node:fs';
import { ensureBuild, ensurePackages } from '../scripts/ensure.mjs';

const built = new URL('../dist/node/cli.js', import.meta.url);
if (!existsSync(built)) {
  console.log = console.error;
  ensurePackages();
  ensureBuild();
}
await import(built.href);
