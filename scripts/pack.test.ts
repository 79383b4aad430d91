import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, test } from '@jest/globals';

const root = fileURLToPath(new URL('..', import.meta.url));
const { npmScript } = (await import('./ensure.mjs' as string)) as { npmScript(): string };
const folder = mkdtempSync(join(tmpdir(), 'northfen-pack-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('the packed archive runs from an empty folder with the packages that it asks for, and no others', async () => {
  const packed = spawnSync(
    process.execPath,
    [npmScript(), 'pack', '--ignore-scripts', '--silent', '--pack-destination', folder],
    { cwd: root, encoding: 'utf8' },
  );
  expect(packed.status).toBe(0);
  const modules = join(folder, 'node_modules');
  mkdirSync(join(modules, 'northfen'), { recursive: true });
  const archive = readdirSync(folder).find((name) => name.endsWith('.tgz')) as string;
  spawnSync('tar', ['-xzf', archive, '-C', join('node_modules', 'northfen'), '--strip-components=1'], {
    cwd: folder,
  });
  const manifest = JSON.parse(readFileSync(join(modules, 'northfen/package.json'), 'utf8'));
  for (const name of Object.keys(manifest.dependencies)) {
    mkdirSync(dirname(join(modules, name)), { recursive: true });
    symlinkSync(join(root, 'node_modules', name), join(modules, name), 'dir');
  }
  const files = readdirSync(join(modules, 'northfen'));
  expect(files).toEqual(
    expect.arrayContaining(['assets', 'bin', 'dist', 'docs', 'README.md', 'THIRD-PARTY.md']),
  );
  expect(files).not.toContain('server');

  const command = join(modules, 'northfen', manifest.bin.northfen);
  const child = spawn(
    process.execPath,
    [command, 'serve', '--demo', '--port', '0', '--data', join(folder, 'data')],
    {
      cwd: folder,
      env: { ...process.env, NODE_OPTIONS: '' },
    },
  );
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
  const ended = new Promise((resolve) => child.on('exit', resolve));
  const ready = new Promise<string>((resolve, reject) => {
    child.stdout.on('data', () => {
      const address = /ready: (http:\S+)/.exec(said)?.[1];
      if (address) resolve(address);
    });
    child.on('exit', () => reject(new Error(said)));
  });
  const address = await ready;
  expect(await (await fetch(`${address}/api/setups`)).json()).toHaveLength(4);
  expect(await (await fetch(address)).text()).toContain('<div id="root">');
  child.kill('SIGTERM');
  await ended;
});
