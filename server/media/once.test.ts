import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { DiskFullError } from './diskFile.ts';
import { once } from './once.ts';

const folder = testFolder();
afterAll(folder.remove);
const file = (name: string) => join(folder.path, name);

describe('a file that is made once', () => {
  test('is written once, however many ask for it, and found whole by all', async () => {
    let times = 0;
    const write = async (part: string) => {
      times += 1;
      await new Promise((resolve) => setTimeout(resolve, 20));
      await writeFile(part, 'whole');
    };
    const path = file('deep/in/one.txt');
    await Promise.all([once(path, write), once(path, write), once(path, write)]);
    await once(path, write);
    expect(times).toBe(1);
    expect(readFileSync(path, 'utf8')).toBe('whole');
    expect(readdirSync(file('deep/in'))).toEqual(['one.txt']);
  });

  test('leaves nothing behind when writing fails, and is tried again', async () => {
    const path = file('two.txt');
    const fails = async (part: string) => {
      await writeFile(part, 'half');
      throw new Error('it stopped');
    };
    await expect(once(path, fails)).rejects.toThrow('it stopped');
    expect(readdirSync(folder.path).filter((name) => name.startsWith('two'))).toEqual([]);
    await once(path, (part) => writeFile(part, 'whole'));
    expect(existsSync(path)).toBe(true);
  });

  test('tells of a full disk in words', async () => {
    const full = () => Promise.reject(Object.assign(new Error('write'), { code: 'ENOSPC' }));
    await expect(once(file('three.txt'), full)).rejects.toBeInstanceOf(DiskFullError);
  });
});

test('stops when everybody who waited has gone, and not before', async () => {
  const path = join(folder.path, 'wanted');
  let stopped = 0;
  const write = (_part: string, signal: AbortSignal) =>
    new Promise<void>((_, reject) =>
      signal.addEventListener('abort', () => {
        stopped += 1;
        reject(new Error('nobody waits any more'));
      }),
    );
  const [first, second] = [new AbortController(), new AbortController()];
  const both = [once(path, write, first.signal), once(path, write, second.signal)];
  for (const one of both) one.catch(() => {});
  await new Promise((resolve) => setTimeout(resolve, 20));
  first.abort();
  await new Promise((resolve) => setTimeout(resolve, 20));
  expect(stopped).toBe(0);
  second.abort();
  await expect(both[1]).rejects.toThrow('nobody waits any more');
  expect(stopped).toBe(1);
});
