import { spawn } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, test } from '@jest/globals';
import { regattaMadeRight } from '../core/demo/setups.ts';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import { noise } from '../core/testing/tones.ts';
import { testFolder, writeSound } from '../server/testing.ts';

const folder = testFolder();
afterAll(folder.remove);

test('finishes its work without complaint when the reader of its output stops early', async () => {
  const setup = join(folder.path, 'setup.json');
  writeFileSync(setup, JSON.stringify(twoMachinesWithFaults()));
  const command = spawn('node', [
    fileURLToPath(new URL('../bin/northfen.mjs', import.meta.url)),
    ...['mend', setup, '--out', join(folder.path, 'mended.json'), '--json'],
  ]);
  const complaints: string[] = [];
  command.stderr.on('data', (text) => complaints.push(String(text)));
  command.stdout.destroy();
  const code = await new Promise((resolve) => command.on('close', resolve));
  expect(code).toBe(0);
  expect(existsSync(join(folder.path, 'mended.json'))).toBe(true);
  expect(complaints.filter((text) => !text.startsWith('Building'))).toEqual([]);
}, 120_000);

test('stops cleanly at Ctrl C: nothing half done is left', async () => {
  const recording = join(folder.path, 'evening.mkv');
  await writeSound(recording, noise(1, 300 * 48_000));
  const out = join(folder.path, 'tracks');
  const command = spawn('node', [
    fileURLToPath(new URL('../bin/northfen.mjs', import.meta.url)),
    ...['extract', recording, '--out', out, '--format', 'flac'],
  ]);
  let complaints = '';
  command.stderr.on('data', (text) => {
    complaints += String(text);
  });
  const closed = new Promise((resolve) => command.on('close', resolve));
  const hasBegun = () => existsSync(out) && readdirSync(out).some((name) => name.endsWith('.part'));
  for (let turn = 0; turn < 20_000 && !hasBegun() && command.exitCode === null; turn++) await setTimeout(2);
  expect(hasBegun()).toBe(true);
  command.kill('SIGINT');
  expect(await closed).toBe(1);
  expect(complaints).toContain('stopped; nothing half done is left.');
  expect(readdirSync(folder.path)).toContain('evening.mkv');
  expect(existsSync(out)).toBe(false);
}, 120_000);

test('a render is never written over a recording that it is made of', async () => {
  const recording = join(folder.path, 'voice.mkv');
  await writeSound(recording, noise(3, 2 * 48_000));
  const plain = regattaMadeRight();
  const sources = plain.sources.map((source) => ({ ...source, media: { path: 'voice.mkv' } }));
  const setup = join(folder.path, 'render.json');
  writeFileSync(setup, JSON.stringify({ ...plain, sources }));
  const before = readFileSync(recording);
  const command = spawn('node', [
    fileURLToPath(new URL('../bin/northfen.mjs', import.meta.url)),
    ...['render', setup, '--out', recording],
  ]);
  let complaints = '';
  command.stderr.on('data', (text) => {
    complaints += String(text);
  });
  expect(await new Promise((resolve) => command.on('close', resolve))).toBe(1);
  expect(complaints).toContain('voice.mkv would be written over itself');
  expect(readFileSync(recording).equals(before)).toBe(true);
}, 120_000);
