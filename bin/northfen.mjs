#!/usr/bin/env -S MALLOC_ARENA_MAX=2 node
/**
 * The northfen command. In a working copy it is built anew when a source has changed; an installed package is built. Two arenas of memory for
 * all threads keep what it holds some 80 MB lower than one for each (glibc).
 */
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
