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
