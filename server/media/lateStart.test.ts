import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { breakOffOfFile } from './breakOff.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const SECONDS = 8;

/** Recordings whose own time runs for an hour when they begin, as streams have it. */
beforeAll(() => {
  const inputs = ['testsrc=size=160x90:rate=25', 'anoisesrc=seed=3:amplitude=0.2:sample_rate=48000'];
  const lavfi = inputs.flatMap((input) => ['-f', 'lavfi', '-i', `${input}:duration=${SECONDS}`]);
  for (const [name, codec] of [
    ['late.ts', 'aac'],
    ['late.mkv', 'pcm_s16le'],
  ])
    execFileSync('ffmpeg', [
      ...['-v', 'error', ...lavfi, '-c:v', 'libx264', '-c:a', codec, '-output_ts_offset', '3600'],
      file(name),
    ]);
});

describe.each(['late.ts', 'late.mkv'])('a recording that begins at an hour in its own time (%s)', (name) => {
  test('is as long as what is in it', async () => {
    const opened = await AudioFile.open(file(name));
    opened.close();
    expect(Math.abs(opened.tracks[0].durationS - SECONDS)).toBeLessThan(0.1);
    expect(await breakOffOfFile(file(name))).toBe(null);
  });

  test('is saved whole, with nothing lost', async () => {
    const { tracks } = await repairRecording(file(name), file(`${name}.fixed.mkv`));
    for (const { savedS, promisedS } of tracks) {
      expect(Math.abs(savedS - SECONDS)).toBeLessThan(0.2);
      expect(Math.abs((promisedS ?? savedS) - savedS)).toBeLessThan(0.2);
    }
  });
});

test('one that was cut breaks off where it does, counted from its beginning', async () => {
  const whole = readFileSync(file('late.mkv'));
  writeFileSync(file('cut.mkv'), whole.subarray(0, whole.length / 2));
  const { atS, promisedS } = (await breakOffOfFile(file('cut.mkv'))) ?? {};
  expect(promisedS).toBeCloseTo(SECONDS, 0);
  expect(atS).toBeGreaterThan(SECONDS * 0.3);
  expect(atS).toBeLessThan(SECONDS * 0.7);
});
