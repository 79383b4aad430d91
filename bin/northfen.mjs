#!/usr/bin/env node
/** The northfen command. In a working copy it is built anew when a source has changed; an installed package is built. */
import { existsSync } from 'node:fs';

const sources = new URL('../server/main.ts', import.meta.url);
if (existsSync(sources)) {
  const log = console.log;
  console.log = console.error;
  const { ensureBuild, ensurePackages } = await import('../scripts/ensure.mjs');
  ensurePackages();
  ensureBuild();
  console.log = log;
}
await import(new URL('../dist/node/cli.js', import.meta.url).href);
