import { truncateSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { noise } from '../../core/testing/tones.ts';
import { testFolder, writeSound } from '../testing.ts';
import { AudioFile } from './audioFile.ts';

const folder = testFolder();
afterAll(folder.remove);

test('a recording that becomes shorter while it is read is damaged, and not silent from there on', async () => {
  const path = join(folder.path, 'shrinks.wav');
  await writeSound(path, noise(1, 60 * 48_000), {}, 'wav');
  const file = await AudioFile.open(path);
  let heard = 0;
  let quiet = 0;
  const read = async () => {
    for await (const [plane] of file.planes(0)) {
      if (heard === 0) truncateSync(path, 1_000_000);
      heard += plane.length;
      quiet += plane.every((value) => value === 0) ? 1 : 0;
    }
  };
  await expect(read()).rejects.toThrow('shrinks.wav is damaged');
  expect(heard).toBeGreaterThan(0);
  expect(quiet).toBe(0);
  file.close();
});
