import { spawnSync } from 'node:child_process';
import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { voiceOver } from '../core/demo/setups.ts';
import type { Setup } from '../core/setup/schema.ts';
import { testFolder } from '../server/testing.ts';
import { findMedia } from './setupFile.ts';

const folder = testFolder();
afterAll(() => folder.remove());
const here = join(folder.path, 'evening');
mkdirSync(join(here, 'media'), { recursive: true });
mkdirSync(join(folder.path, 'elsewhere'));
writeFileSync(join(here, 'media', 'game.wav'), 'x');
writeFileSync(join(folder.path, 'elsewhere', 'secret.wav'), 'x');
symlinkSync(join(folder.path, 'elsewhere', 'secret.wav'), join(here, 'media', 'link.wav'));
symlinkSync(join(here, 'media', 'game.wav'), join(here, 'media', 'inside.wav'));
symlinkSync(join(folder.path, 'elsewhere'), join(here, 'away'));

function playing(path: string): Setup {
  const setup = voiceOver();
  return {
    ...setup,
    sources: setup.sources.map((one) => ({ ...one, media: one.id === 'game' ? { path } : null })),
  };
}

describe('the recordings of a setup file', () => {
  test.each(['media/game.wav', 'media/inside.wav', '../elsewhere/secret.wav'])(
    '%s is found',
    async (path) => {
      expect(Object.keys(await findMedia(playing(path), here))).toEqual(['game']);
    },
  );

  test.each(['media/link.wav', 'away/secret.wav'])(
    '%s leads out of the folder, and is taken only when asked for',
    async (path) => {
      await expect(findMedia(playing(path), here)).rejects.toThrow(
        /is a link that leads out of the setup file's folder. Copy the recording there, or allow it with --media-anywhere/,
      );
      await expect(findMedia(playing(path), here, { anywhere: true })).resolves.toHaveProperty('game');
    },
  );

  test('a folder, a pipe or a device is no recording', async () => {
    spawnSync('mkfifo', [join(here, 'media', 'pipe.wav')]);
    for (const path of ['media', 'media/pipe.wav', '/dev/zero'])
      await expect(findMedia(playing(path), here)).rejects.toThrow(
        /is no file \(a folder, a pipe or a device\)/,
      );
  });

  test('one that is missing is named', async () => {
    await expect(findMedia(playing('media/none.wav'), here)).rejects.toThrow(
      /there is no file media\/none\.wav beside/,
    );
  });
});
