import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { InTime } from './inTime.ts';

const RATE = 1000;
const folder = testFolder();
afterAll(folder.remove);

/** Puts portions of ones in time and joins them. */
function placed(portions: [startS: number, frames: number][], fromS = 0): number[] {
  const timeline = new InTime(fromS, RATE);
  return portions.flatMap(([startS, frames]) =>
    [...timeline.place({ planes: [new Float32Array(frames).fill(1)], startS })].flatMap(([plane]) => [
      ...plane,
    ]),
  );
}

const ones = (count: number) => new Array<number>(count).fill(1);
const zeros = (count: number) => new Array<number>(count).fill(0);

describe('portions of a track are put where they belong', () => {
  test.each<[string, [number, number][], number, number[]]>([
    [
      'one after the other',
      [
        [0, 5],
        [0.005, 5],
      ],
      0,
      ones(10),
    ],
    ['a late start is silence', [[0.007, 5]], 0, [...zeros(7), ...ones(5)]],
    [
      'what lies before the start is left out',
      [
        [-0.02, 5],
        [-0.003, 5],
        [0.002, 5],
      ],
      0,
      ones(7),
    ],
    [
      'from the middle',
      [
        [0, 50],
        [0.05, 50],
      ],
      0.03,
      ones(70),
    ],
    [
      'a gap is silence',
      [
        [0, 5],
        [0.055, 5],
      ],
      0,
      [...ones(5), ...zeros(50), ...ones(5)],
    ],
    [
      'times that are rounded are no gap',
      [
        [0, 5],
        [0.006, 5],
        [0.009, 5],
      ],
      0,
      ones(15),
    ],
    [
      'nor are times that run back',
      [
        [0, 50],
        [0.01, 5],
      ],
      0,
      ones(55),
    ],
  ])('%s', (_name, portions, fromS, expected) => {
    expect(placed(portions, fromS)).toEqual(expected);
  });

  test('a time that is hours off is damaged', () => {
    expect(() =>
      placed([
        [0, 5],
        [1e6, 5],
      ]),
    ).toThrow('hours later');
  });
});

test('tracks of one file run in step, whatever their coders put before them, and from any moment on', async () => {
  const path = join(folder.path, 'click.mkv');
  const click = "aevalsrc='if(eq(mod(n,24000),12000),0.9,0)':s=48000:d=4";
  const { stderr, status } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      click,
      '-map',
      '0',
      '-map',
      '0',
      '-c:a:0',
      'aac',
      '-ar:a:0',
      '24000',
      '-c:a:1',
      'aac',
      path,
    ],
    { encoding: 'utf8' },
  );
  expect([stderr, status]).toEqual(['', 0]);
  const file = await AudioFile.open(path);
  const loudestS = async (track: number, fromS: number) => {
    const { sampleRate } = file.tracks[track];
    const samples: number[] = [];
    for await (const [plane] of file.planes(track, fromS)) samples.push(...plane);
    const half = samples.slice(0, Math.round(0.5 * sampleRate)).map(Math.abs);
    return half.indexOf(Math.max(...half)) / sampleRate;
  };
  const clickS = await loudestS(0, 0);
  for (const fromS of [0, 1.1, 2.3]) {
    const [one, other] = [await loudestS(0, fromS), await loudestS(1, fromS)];
    expect(Math.abs(one - other)).toBeLessThan(0.0015);
    expect(Math.abs(((one + fromS) % 0.5) - clickS)).toBeLessThan(0.0015);
  }
  file.close();
});
