import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { threadRunner } from './runner.ts';

const folder = testFolder();
const worker = join(folder.path, 'worker.mjs');

/** A stand-in for the worker: what it is asked to inspect says how it behaves. */
beforeAll(() =>
  writeFileSync(
    worker,
    `import { threadId } from 'node:worker_threads';
    export async function work({ input: { path }, port }) {
      port.postMessage({ share: 0 });
      if (path === 'spin') for (;;);
      if (path === 'spin in promises') for (;;) await null;
      if (path === 'fault') {
        port.postMessage({ failure: { failed: true, name: 'RuntimeError', code: null, message: 'memory access out of bounds' } });
        return new Promise(() => {});
      }
      if (path === 'greedy') {
        const all = [];
        for (;;) all.push({ some: all.length, more: [all.length] });
      }
      if (path === 'until told')
        return new Promise((resolve) => {
          port.on('message', () => resolve({ failed: true, name: 'AbortError', code: null, message: 'it was told' }));
        });
      return threadId;
    }`,
  ),
);
afterAll(() => folder.remove());

const inspect = (runner: ReturnType<typeof threadRunner>, path: string) =>
  runner.run('inspect', { path, allowCut: false }) as unknown as Promise<number>;

describe('a thread', () => {
  test.each(['spin', 'spin in promises'])('that hangs (%s) is ended, and the others go on', async (how) => {
    const runner = threadRunner(worker, { stallS: 0.5 });
    const hung = [inspect(runner, how), inspect(runner, how), inspect(runner, how)];
    for (const one of hung)
      await expect(one).rejects.toMatchObject({
        name: 'StalledError',
        message: expect.stringMatching(/No progress was made for 0.5 seconds.*export or copy it again/),
      });
    await expect(inspect(runner, 'well')).resolves.toEqual(expect.any(Number));
    await runner.close();
  });

  test('in which a task failed in an unexpected way is replaced', async () => {
    const runner = threadRunner(worker);
    const before = await inspect(runner, 'well');
    await expect(inspect(runner, 'fault')).rejects.toThrow('memory access out of bounds');
    const after = [await inspect(runner, 'well'), await inspect(runner, 'well')];
    expect(after).not.toContain(before);
    await runner.close();
  });

  test('that needs too much memory ends alone, with a sentence', async () => {
    const runner = threadRunner(worker, { mostHeapMb: 64 });
    await expect(inspect(runner, 'greedy')).rejects.toMatchObject({
      name: 'MediaError',
      message: expect.stringMatching(/more memory than a recording should/),
    });
    await expect(inspect(runner, 'well')).resolves.toEqual(expect.any(Number));
    await runner.close();
  });

  test('that hangs does not keep the server from ending', async () => {
    const runner = threadRunner(worker);
    const hung = inspect(runner, 'spin').catch((error: Error) => error);
    await new Promise((resolve) => setTimeout(resolve, 300));
    await runner.close();
    await expect(hung).resolves.toBeInstanceOf(Error);
  });

  test('that works when the server ends is told so, and ends by itself; what waits is not begun', async () => {
    const runner = threadRunner(worker);
    const all = Array.from({ length: 5 }, () => inspect(runner, 'until told').catch((error: Error) => error));
    await new Promise((resolve) => setTimeout(resolve, 300));
    await runner.close();
    const ends = (await Promise.all(all)) as Error[];
    expect(ends.map(({ name }) => name)).toEqual(ends.map(() => 'AbortError'));
    expect(ends.some(({ message }) => message === 'it was told')).toBe(true);
  });

  test('that hangs is ended when nobody waits for it any more', async () => {
    const runner = threadRunner(worker, { stopS: 0.5 });
    const gone = new AbortController();
    const hung = runner.run('inspect', { path: 'spin', allowCut: false }, { signal: gone.signal });
    setTimeout(() => gone.abort(), 300);
    await expect(hung).rejects.toMatchObject({ name: 'AbortError' });
    await runner.close();
  });
});
