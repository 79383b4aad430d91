import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { claimDataFolder } from './dataFolder.ts';
import { openDatabase } from './store/database.ts';
import { testFolder } from './testing.ts';
import { tidyDataFolder } from './tidy.ts';

let folder: ReturnType<typeof testFolder>;
beforeEach(() => {
  folder = testFolder();
});
afterEach(() => folder.remove());

const ID = '7b0e9a52-9f0e-4c7b-8a55-1d1f0c0a9b11';

describe('claiming a data folder', () => {
  test('makes and marks a new one, and takes it again later', () => {
    const path = join(folder.path, 'new', 'data');
    claimDataFolder(path).release();
    expect(readdirSync(path)).toContain('northfen-data.json');
    claimDataFolder(path).release();
  });

  test('refuses a folder with other things in it, and touches nothing', () => {
    mkdirSync(join(folder.path, 'takes'));
    writeFileSync(join(folder.path, 'takes', 'wedding.mov'), 'mine');
    writeFileSync(join(folder.path, 'notes.txt'), 'mine');
    expect(() => claimDataFolder(folder.path)).toThrow(
      /has other things in it \(notes\.txt\).*Nothing was touched/,
    );
    expect(readdirSync(folder.path).sort()).toEqual(['notes.txt', 'takes']);
    expect(existsSync(join(folder.path, 'takes', 'wedding.mov'))).toBe(true);
  });

  test('refuses a folder that only happens to have folders called like its own', () => {
    mkdirSync(join(folder.path, 'kept'));
    writeFileSync(join(folder.path, 'kept', 'letter.txt'), 'mine');
    expect(() => claimDataFolder(folder.path)).toThrow(/other things in it \(kept\)/);
  });

  test('takes one of a Northfen from before there was a mark, and one with a system’s own files', () => {
    openDatabase(folder.path).close();
    mkdirSync(join(folder.path, 'media'));
    writeFileSync(join(folder.path, '.DS_Store'), '');
    claimDataFolder(folder.path).release();
    expect(existsSync(join(folder.path, 'northfen-data.json'))).toBe(true);
  });

  test('is done by one process at a time, and says where the other one answers', () => {
    const first = claimDataFolder(folder.path);
    first.setAddress('http://127.0.0.1:4780');
    expect(() => claimDataFolder(folder.path)).toThrow(
      /Another Northfen is working in .*; open http:\/\/127\.0\.0\.1:4780\..*Nothing was touched/,
    );
    first.release();
    claimDataFolder(folder.path).release();
  });

  test('says when it is a file, or lies below one', () => {
    const file = join(folder.path, 'file');
    writeFileSync(file, '');
    expect(() => claimDataFolder(file)).toThrow(/is a file, not a folder. Choose another/);
    expect(() => claimDataFolder(join(file, 'below'))).toThrow(/lies below a file/);
  });

  test('says when the database in it is damaged', () => {
    claimDataFolder(folder.path).release();
    writeFileSync(
      join(folder.path, 'northfen.sqlite'),
      'this is no database, whatever its name says'.repeat(100),
    );
    expect(() => openDatabase(folder.path)).toThrow(/northfen\.sqlite is damaged.*nothing was changed/);
  });
});

describe('tidying', () => {
  test('removes only what is in Northfen’s own form and unknown to it', () => {
    const put = (...names: string[]) => {
      const path = join(folder.path, ...names);
      mkdirSync(join(path, '..'), { recursive: true });
      writeFileSync(path, '');
      return path;
    };
    const other = ID.replace('7b0e', '8c1f');
    const gone = [
      put('takes', ID, 'take.mkv'),
      put('takes', other, 'track-1.wav.part'),
      put('media', `${ID}.wav`),
      put('media', `${ID}.flac.part`),
      put('kept', `${'a1'.repeat(12)}.f32`),
      put('kept', `${'b2'.repeat(12)}.cov.part`),
      put('prints', `${'c3'.repeat(12)}.print.part`),
    ];
    const stays = [
      put('takes', other, 'take.mkv'),
      put('takes', 'holiday', 'take.mkv'),
      put('media', `${other}.wav`),
      put('media', 'song.part'),
      put('kept', 'letter.txt'),
      put('prints', `${'c3'.repeat(12)}.print`),
    ];
    tidyDataFolder(folder.path, { takes: new Set([other]), media: new Set([`${other}.wav`]) });
    expect(gone.filter((path) => existsSync(path))).toEqual([]);
    expect(stays.filter((path) => !existsSync(path))).toEqual([]);
    rmSync(join(folder.path, 'kept'), { recursive: true });
    tidyDataFolder(folder.path, { takes: new Set(), media: new Set() });
  });
});
