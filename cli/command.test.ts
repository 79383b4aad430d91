import { spawn } from 'node:child_process';
import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, test } from '@jest/globals';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import { testFolder } from '../server/testing.ts';

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
