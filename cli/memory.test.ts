import { spawn } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, test } from '@jest/globals';
import { regattaMadeRight } from '../core/demo/setups.ts';
import { applyEdit } from '../core/setup/edits.ts';
import type { Setup } from '../core/setup/schema.ts';
import { readSound, testFolder, VOICES, writeSound } from '../server/testing.ts';

const folder = testFolder();
afterAll(folder.remove);

/** Nothing that a render keeps grows with its length, so that what holds for 40 s holds for an hour. */
const SECONDS = 40;
const MIB = 1024;

test('a render of ten sources into eight tracks, with its proof, stays below 600 MB and does not grow', async () => {
  const voice = await readSound(join(VOICES, 'narrator.flac'), 0, SECONDS);
  await writeSound(join(folder.path, 'voice.mkv'), voice, { codec: 'flac' });
  writeFileSync(join(folder.path, 'setup.json'), JSON.stringify(tenSources('voice.mkv')));

  // The command itself: its first line says how memory is held.
  const command = spawn(fileURLToPath(new URL('../bin/northfen.mjs', import.meta.url)), [
    ...['render', join(folder.path, 'setup.json'), '--out', join(folder.path, 'take.mkv')],
  ]);
  const resident: number[] = [];
  const watch = setInterval(() => resident.push(residentMb(command.pid ?? 0)), 100);
  const code = await new Promise((resolve) => command.on('exit', resolve));
  clearInterval(watch);

  expect(code).toBe(0);
  expect(resident.length).toBeGreaterThan(50);
  expect(Math.max(...resident)).toBeLessThan(600);
  const part = (from: number, to: number) =>
    Math.max(...resident.slice(resident.length * from, resident.length * to));
  expect(part(0.8, 1)).toBeLessThan(part(0.5, 0.8) + 40);
}, 240_000);

function tenSources(path: string): Setup {
  const setup = regattaMadeRight();
  const { id: _, ...like } = setup.sources[0];
  const ten = applyEdit(setup, { edit: 'addSource', source: { ...like, name: 'Tenth' } });
  return { ...ten, sources: ten.sources.map((source) => ({ ...source, media: { path } })) };
}

/** The memory that a process holds (MB); 0 once it has ended. */
function residentMb(pid: number): number {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / MIB;
  } catch {
    return 0;
  }
}
