import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { breakOffOf } from './breakOff.ts';

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
    expect(await breakOffOf(file(`whole.${kind}`), SECONDS, 10)).toBeNull();
    expect(await breakOffOf(file(`whole.${kind}`), SECONDS, SECONDS)).toBeNull();
  });

  test('is whole, also where subtitles outlast its sound', async () => {
    writeFileSync(file('late.srt'), '1\n00:01:30,000 --> 00:01:32,000\nThe end\n');
    const coder = kind === 'mkv' ? 'srt' : 'mov_text';
    const args = [
      '-v',
      'error',
      '-y',
      '-i',
      file(`whole.${kind}`),
      '-i',
      file('late.srt'),
      '-map',
      '0',
      '-map',
      '1',
    ];
    const name = file(`subtitled.${kind}`);
    expect(
      spawnSync('ffmpeg', [...args, '-c', 'copy', '-c:s', coder, name], { encoding: 'utf8' }).stderr,
    ).toBe('');
    expect(await breakOffOf(name, 92, SECONDS)).toBeNull();
    const bytes = readFileSync(name);
    writeFileSync(name, bytes.subarray(0, bytes.length * 0.6));
    expect((await breakOffOf(name, 92, 20))?.promisedS).toBe(92);
    writeFileSync(
      name,
      Buffer.concat([bytes.subarray(0, bytes.length * 0.6), Buffer.alloc(bytes.length * 0.4)]),
    );
    expect((await breakOffOf(name, 92, 20))?.promisedS).toBe(92);
  });

  test('breaks off where it was cut', async () => {
    const bytes = readFileSync(file(`whole.${kind}`));
    writeFileSync(file(`cut.${kind}`), bytes.subarray(0, bytes.length * 0.6));
    const { atS = 0, promisedS = 0 } = (await breakOffOf(file(`cut.${kind}`), SECONDS, 10)) ?? {};
    expect(promisedS).toBe(SECONDS);
    expect(atS).toBeGreaterThanOrEqual(10);
    expect(atS).toBeLessThan(0.7 * SECONDS);
  });
});

test('a WAV promises as much as its header says', async () => {
  const args = ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'anoisesrc=d=20:a=0.1', file('whole.wav')];
  spawnSync('ffmpeg', args);
  expect(await breakOffOf(file('whole.wav'), 20, 20)).toBeNull();
  const bytes = readFileSync(file('whole.wav'));
  writeFileSync(file('cut.wav'), bytes.subarray(0, bytes.length / 2));
  const { atS, promisedS } = (await breakOffOf(file('cut.wav'), 10, 10)) ?? {};
  expect(atS).toBe(10);
  expect(promisedS).toBeCloseTo(20, 1);
});

test('an MP3 of which the first part says how long it might be, is whole', async () => {
  const parts = [30, 20].map((long, at) => {
    const args = ['-v', 'error', '-y', '-f', 'lavfi', '-i', `anoisesrc=d=${long}:a=0.1`];
    const rate = ['-b:a', at === 0 ? '64k' : '256k'];
    spawnSync('ffmpeg', [...args, ...rate, '-write_xing', '0', file(`part${at}.mp3`)]);
    return readFileSync(file(`part${at}.mp3`));
  });
  writeFileSync(file('both.mp3'), Buffer.concat(parts));
  expect(await breakOffOf(file('both.mp3'), 110, 50)).toBeNull();
});

test('a sound too short to be counted is whole', async () => {
  const args = ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'anoisesrc=d=0.03:a=0.1', file('short.wav')];
  spawnSync('ffmpeg', args);
  expect(await breakOffOf(file('short.wav'), 0.03, 0)).toBeNull();
});

test('of a file that cannot be opened nothing is there', async () => {
  writeFileSync(file('junk.mkv'), Buffer.alloc(5000, 7));
  expect(await breakOffOf(file('junk.mkv'), SECONDS, 0)).toEqual({ atS: 0, promisedS: SECONDS });
});
