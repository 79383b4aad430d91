import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { inNewFolder } from './newFolder.ts';

const folder = testFolder();
afterAll(folder.remove);

const fails = () => Promise.reject(new Error('the disk is full'));

test('folders that were made for what failed are taken away, those that were there stay', async () => {
  mkdirSync(join(folder.path, 'mine'));
  const deep = join(folder.path, 'mine/evening/editor');
  await expect(inNewFolder(deep, () => inNewFolder(join(deep, 'tracks'), fails))).rejects.toThrow('full');
  expect(existsSync(join(folder.path, 'mine/evening'))).toBe(false);
  expect(existsSync(join(folder.path, 'mine'))).toBe(true);
  await expect(inNewFolder(join(folder.path, 'mine'), fails)).rejects.toThrow('full');
  expect(existsSync(join(folder.path, 'mine'))).toBe(true);
});

test('what is in them is never taken away', async () => {
  const out = join(folder.path, 'one/two');
  const half = async () => {
    writeFileSync(join(folder.path, 'one/notes.txt'), 'somebody else was here');
    await fails();
  };
  await expect(inNewFolder(out, half)).rejects.toThrow('full');
  expect(existsSync(out)).toBe(false);
  expect(existsSync(join(folder.path, 'one/notes.txt'))).toBe(true);
  expect(await inNewFolder(out, async () => existsSync(out))).toBe(true);
});
