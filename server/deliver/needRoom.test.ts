import { mkdirSync, writeFileSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { needRoom } from './needRoom.ts';

const folder = testFolder();
afterAll(folder.remove);

test('what has no room on the disk is not begun, and says how much is needed', async () => {
  const original = join(folder.path, 'evening.mkv');
  mkdirSync(join(folder.path, 'made'));
  writeFileSync(original, Buffer.alloc(1_000_000));
  const place = join(folder.path, 'made', 'evening.mp4');
  const { bavail, bsize } = await statfs(folder.path);
  await expect(needRoom(place, original, { copies: 1 })).resolves.toBeUndefined();
  // Floats in stereo at 48 kHz: as many seconds as fill the disk, and one more hour.
  const lengthS = (bavail * bsize) / (48_000 * 8) + 3600;
  await expect(needRoom(place, original, { soundTracks: 1, lengthS })).rejects.toThrow(
    /^About [\d.]+ GB are needed, and [\d.]+ [GM]B are free\..*nothing was written\.$/,
  );
});
