import { describe, expect, test } from '@jest/globals';
import { newStereo } from '../../core/audio/planes.ts';
import type { HeardSound } from './hearPair.ts';
import { PassageReader } from './passageReader.ts';
import { STEM_RATE } from './stem.ts';

const LENGTH_S = 2;

/** A sound whose samples say where they lie (s), and how often it was opened. */
function countedSound(soundS: number): HeardSound & { opened: number } {
  const total = soundS * STEM_RATE;
  return {
    opened: 0,
    from(startS) {
      this.opened += 1;
      let at = Math.round(startS * STEM_RATE);
      return {
        expectedS: soundS - startS,
        read: async (planes, frames) => {
          const count = Math.max(0, Math.min(frames, total - at));
          for (let i = 0; i < count; i++) for (const plane of planes) plane[i] = (at + i) / STEM_RATE;
          at += count;
          return count;
        },
        close: async () => {},
      };
    },
  };
}

/** Reads passages; of each, what its first and its last sample say, and how long it is (s). */
async function read(sound: HeardSound, starts: number[]): Promise<number[][]> {
  const reader = new PassageReader(sound, LENGTH_S);
  const read: number[][] = [];
  for (const startS of starts) {
    const passage = (await reader.passage(startS)).from(startS);
    const planes = newStereo((LENGTH_S + 1) * STEM_RATE);
    const count = await passage.read(planes, planes[0].length);
    const [first, last] = [planes[0][0], planes[1][Math.max(0, count - 1)]];
    read.push([first, last, count / STEM_RATE].map((value) => Math.round(1000 * value) / 1000));
  }
  await reader.close();
  return read;
}

describe('passages of a sound are read in their order', () => {
  test.each<[string, number[], number]>([
    ['the same twice', [1, 1], 1],
    ['that overlap', [0, 1.5, 2.25], 1],
    ['that follow each other', [0, 2, 4], 1],
    ['with something in between', [1, 9], 1],
    ['far from each other', [1, 80, 81], 2],
  ])('%s', async (_name, starts, opened) => {
    const sound = countedSound(200);
    const expected = starts.map((startS) => [startS, startS + LENGTH_S, LENGTH_S]);
    expect(await read(sound, starts)).toEqual(expected);
    expect(sound.opened).toBe(opened);
  });

  test('up to the end of the sound, and not beyond it', async () => {
    expect(await read(countedSound(5), [2, 4, 4.5, 7])).toEqual([
      [2, 4, 2],
      [4, 5, 1],
      [4.5, 5, 0.5],
      [0, 0, 0],
    ]);
  });

  test('and each from a later moment on, as often as is wanted', async () => {
    const passage = await new PassageReader(countedSound(10), LENGTH_S).passage(3);
    for (const startS of [3, 4.5, 4]) {
      const planes = newStereo(10);
      await passage.from(startS).read(planes, 10);
      expect(planes[1][0]).toBeCloseTo(startS, 4);
    }
  });
});
