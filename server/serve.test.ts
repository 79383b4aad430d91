import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, afterEach, describe, expect, test } from '@jest/globals';
import { pino } from 'pino';
import { sine } from '../core/testing/tones.ts';
import { type Serving, serve } from './serve.ts';
import { defaultDataDir, portOf } from './settings.ts';
import { testFolder, VOICES, writeSound } from './testing.ts';

const dist = (path: string) => fileURLToPath(new URL(`../dist/${path}`, import.meta.url));
const folder = testFolder();
const open: Serving[] = [];
afterEach(async () => {
  for (const one of open.splice(0)) await one.close();
});
afterAll(() => folder.remove());

async function start(name: string, more: Partial<Parameters<typeof serve>[0]> = {}): Promise<Serving> {
  const serving = await serve({
    port: 0,
    dataDir: join(folder.path, name),
    demo: false,
    webDir: dist('web'),
    voicesDir: VOICES,
    workerFile: dist('node/worker.js'),
    log: pino({ level: 'silent' }),
    ...more,
  });
  open.push(serving);
  return serving;
}

describe('starting', () => {
  test('answers at once with how far the demo is, then with the app', async () => {
    const states: string[] = [];
    const seen: { status: number; text: string }[] = [];
    const probe = createServer().listen(0, '127.0.0.1');
    const port = await new Promise<number>((resolve) =>
      probe.on('listening', () => {
        const { port } = probe.address() as { port: number };
        probe.close(() => resolve(port));
      }),
    );
    const serving = await start('demo', {
      port,
      demo: true,
      onState: (state) => {
        states.push(state);
        void fetch(`http://127.0.0.1:${port}/`).then(async (answer) =>
          seen.push({ status: answer.status, text: await answer.text() }),
        );
      },
    });
    expect(states[0]).toBe('Making the demo …');
    expect(states.at(-1)).toMatch(/^Making the demo: 10 of 10 recordings/);
    expect(seen[0]).toMatchObject({ status: 503, text: expect.stringContaining('Northfen is starting') });
    expect(seen.some(({ text }) => text.includes('of 10 recordings'))).toBe(true);
    const setups = (await (await fetch(`${serving.address}/api/setups`)).json()) as unknown[];
    expect(setups).toHaveLength(4);
    expect((await fetch(`${serving.address}/setups/x/reach`)).status).toBe(200);
  });

  test('without demo data has no setup', async () => {
    const { address } = await start('own');
    expect(await (await fetch(`${address}/api/setups`)).json()).toEqual([]);
  });

  test('a second one on the same folder touches nothing, and a taken port says so', async () => {
    const first = await start('shared');
    const port = Number(new URL(first.address).port);
    await expect(start('shared')).rejects.toThrow(
      new RegExp(`Another Northfen is working in .*; open ${first.address}`),
    );
    await expect(start('other', { port })).rejects.toThrow(`Port ${port} is taken by another program`);
    expect(readdirSync(join(folder.path, 'other'))).not.toContain('northfen.sqlite');
    await start('other');
  });

  test('below a folder whose name begins with a dot serves its pages', async () => {
    const webDir = join(folder.path, '.hidden', 'web');
    mkdirSync(webDir, { recursive: true });
    writeFileSync(join(webDir, 'index.html'), '<title>here</title>');
    const { address } = await start('dot', { webDir });
    expect(await (await fetch(`${address}/setups/a/reach`)).text()).toContain('here');
  });

  test.each(['abc', '-1', '70000', '4780.5', '', '0x50'])('%j is no port', (text) => {
    expect(() => portOf(text)).toThrow(/is not a port. Choose a whole number from 1024 to 65535/);
  });

  test('an installed package keeps its data in the user’s folder, a working copy in its own', () => {
    expect(defaultDataDir(`${join('x', 'node_modules', 'northfen')}/`)).not.toContain('node_modules');
    expect(defaultDataDir('/home/somebody/northfen/')).toBe('/home/somebody/northfen/data');
  });
});

describe('the process', () => {
  const run = (env: Record<string, string>) => {
    const child = spawn(process.execPath, [dist('node/server.js')], {
      env: { ...process.env, NORTHFEN_DEMO: '0', NODE_OPTIONS: '', ...env },
    });
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
    const ended = new Promise<number | null>((resolve) => child.on('exit', resolve));
    const isReady = new Promise<void>((resolve) =>
      child.stdout.on('data', () => said.includes('is ready') && resolve()),
    );
    return { child, ended, isReady, said: () => said };
  };

  test.each([
    [{ PORT: 'abc' }, /“abc” is not a port/],
    [{ PORT: '0', NORTHFEN_DATA_DIR: fileURLToPath(import.meta.url) }, /is a file, not a folder/],
  ])('that cannot start says why in a sentence: %j', async (env, words) => {
    const { ended, said } = run({ NORTHFEN_DATA_DIR: join(folder.path, 'none'), ...env });
    expect(await ended).toBe(1);
    expect(said()).toMatch(words);
    expect(said()).not.toMatch(/\n\s+at /);
  });

  test('that is told to end during a render says that it was interrupted', async () => {
    const dataDir = join(folder.path, 'ended');
    const first = run({ PORT: '0', NORTHFEN_DATA_DIR: dataDir });
    await first.isReady;
    const address = /http:\S+/.exec(first.said())?.[0];
    const ask = async (path: string, body?: BodyInit, type = 'application/json') =>
      (
        await fetch(
          `${address}/api${path}`,
          body === undefined ? {} : { method: 'POST', body, headers: { 'Content-Type': type } },
        )
      ).json();
    await writeSound(join(folder.path, 'long.wav'), sine(440, -20, 120), {}, 'wav');
    const { readFile } = await import('node:fs/promises');
    const sound = new Uint8Array(await readFile(join(folder.path, 'long.wav')));
    const { path } = await ask('/media?name=long.wav', sound, 'audio/wav');
    const { id } = await ask('/setups', JSON.stringify({ from: 'voice-over' }));
    const edit = { edit: 'updateSource', id: 'game', values: { media: { path } } };
    await ask(`/setups/${id}/edits`, JSON.stringify({ revision: 1, edit }));
    await ask(`/setups/${id}/renders`, '{}');
    await new Promise((resolve) => setTimeout(resolve, 400));
    first.child.kill('SIGTERM');
    expect(await first.ended).toBe(0);

    const second = run({ PORT: '0', NORTHFEN_DATA_DIR: dataDir });
    await second.isReady;
    const again = /http:\S+/.exec(second.said())?.[0];
    const [job] = await (await fetch(`${again}/api/setups/${id}/renders`)).json();
    expect(job).toMatchObject({
      state: 'interrupted',
      message: 'Northfen was closed while this was rendering. No take was made; render again.',
    });
    expect(readdirSync(join(dataDir, 'takes'))).toEqual([]);
    second.child.kill('SIGTERM');
    await second.ended;
    expect(existsSync(join(dataDir, 'northfen.address'))).toBe(false);
  });
});
