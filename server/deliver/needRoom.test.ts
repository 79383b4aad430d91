import { statfs } from 'node:fs/promises';
import { afterAll, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { losslessBytes, needRoom } from './needRoom.ts';

const folder = testFolder();
afterAll(folder.remove);

test('what has no room on the disk is not begun, and says how much is needed', async () => {
  await expect(needRoom(folder.path, 1_000_000)).resolves.toBeUndefined();
  const { bavail, bsize } = await statfs(folder.path);
  await expect(needRoom(folder.path, bavail * bsize + 1e9)).rejects.toThrow(
    /^About [\d.]+ GB is needed, and [\d.]+ [GM]B is free\..*nothing was written\.$/,
  );
});

test('an hour of sound takes what its bits say', () => {
  const hour = 3600 * 48_000;
  expect(losslessBytes({ channels: 1, codec: 'aac' }, 3600)).toBe(3 * hour);
  expect(losslessBytes({ channels: 2, codec: 'pcm-f32' }, 3600)).toBe(8 * hour);
  expect(losslessBytes({ channels: 2, codec: 'pcm-f32' }, 3600, 'flac')).toBeLessThan(6 * hour);
});
