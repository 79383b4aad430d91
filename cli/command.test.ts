import { spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, test } from '@jest/globals';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import { testFolder } from '../server/testing.ts';

const folder = testFolder();
afterAll(folder.remove);

test('ends without a word when whoever reads what it prints has had enough', async () => {
  const setup = join(folder.path, 'setup.json');
  writeFileSync(setup, JSON.stringify(twoMachinesWithFaults()));
  const command = spawn('node', [
    fileURLToPath(new URL('../bin/northfen.mjs', import.meta.url)),
    ...['reach', setup, '--json'],
  ]);
  const complaints: string[] = [];
  command.stderr.on('data', (text) => complaints.push(String(text)));
  command.stdout.destroy();
  await new Promise((resolve) => command.on('close', resolve));
  expect(complaints.filter((text) => !text.startsWith('Building'))).toEqual([]);
}, 120_000);
