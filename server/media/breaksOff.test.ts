import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { breaksOffAt } from './breaksOff.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const SECONDS = 40;
/** Two tracks, the second of them only ten seconds long. */
beforeAll(() => {
  for (const [name, ...how] of [['whole.mkv'], ['whole.mp4', '-movflags', '+faststart']]) {
    const noises = [SECONDS, 10].flatMap((long) => ['-f', 'lavfi', '-i', `anoisesrc=d=${long}:a=0.1`]);
    const args = [
      '-v',
      'error',
      '-y',
      ...noises,
      '-map',
      '0',
      '-map',
      '1',
      '-c:a',
      'aac',
      ...how,
      file(name),
    ];
    expect(spawnSync('ffmpeg', args, { encoding: 'utf8' }).stderr).toBe('');
  }
});

describe.each(['mkv', 'mp4'])('a recording that says how long it is (%s)', (kind) => {
  test('is whole, also where only a short track of it was read', async () => {
    expect(await breaksOffAt(file(`whole.${kind}`), SECONDS, 10)).toBeNull();
    expect(await breaksOffAt(file(`whole.${kind}`), SECONDS, SECONDS)).toBeNull();
  });

  test('breaks off where it was cut', async () => {
    const bytes = readFileSync(file(`whole.${kind}`));
    writeFileSync(file(`cut.${kind}`), bytes.subarray(0, bytes.length * 0.6));
    const atS = await breaksOffAt(file(`cut.${kind}`), SECONDS, 10);
    expect(atS).toBeGreaterThanOrEqual(10);
    expect(atS).toBeLessThan(0.7 * SECONDS);
  });
});

test('of a file that cannot be opened nothing is there', async () => {
  writeFileSync(file('junk.mkv'), Buffer.alloc(5000, 7));
  expect(await breaksOffAt(file('junk.mkv'), SECONDS, 0)).toBe(0);
});
