import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../../core/audio/planes.ts';
import { PORTION_FRAMES, pass, skip } from './pass.ts';
import { STEM_RATE, type Stem } from './stem.ts';

/** A stem that counts its frames from one, and is silent after its end. */
function counting(length: number): Stem {
  let at = 0;
  return {
    expectedS: length / STEM_RATE,
    async read([left, right]: Stereo, frames: number) {
      const count = Math.min(frames, length - at);
      for (let i = 0; i < frames; i++) {
        left[i] = i < count ? at + i + 1 : 0;
        right[i] = -left[i];
      }
      at += count;
      return count;
    },
  } as unknown as Stem;
}

async function visited(stems: (Stem | null)[], options: Parameters<typeof pass>[2]) {
  const portions: { frames: number; last: number[] }[] = [];
  const done = await pass(
    stems,
    (planes, frames) => {
      portions.push({ frames, last: planes.map(([left]) => left[frames - 1]) });
    },
    options,
  );
  expect(done).toBe(portions.reduce((sum, { frames }) => sum + frames, 0));
  return portions;
}

const LONG = PORTION_FRAMES + 100;

describe('a pass', () => {
  test('ends with the longest stem; those that are shorter, and a missing one, are silent', async () => {
    expect(await visited([counting(LONG), counting(50), null], {})).toEqual([
      { frames: PORTION_FRAMES, last: [PORTION_FRAMES, 0, 0] },
      { frames: 100, last: [LONG, 0, 0] },
    ]);
  });

  test('ends with the shortest where that is asked for', async () => {
    expect(await visited([counting(LONG), counting(50)], { endsWith: 'shortest' })).toEqual([
      { frames: 50, last: [50, 50] },
    ]);
  });

  test('goes on in silence for what is late, and stops where it is told to', async () => {
    const tail = await visited([counting(100)], { tailFrames: PORTION_FRAMES + 7 });
    expect(tail.map(({ frames }) => frames)).toEqual([100, PORTION_FRAMES, 7]);
    expect(tail.map(({ last }) => last[0])).toEqual([100, 0, 0]);
    expect(await visited([counting(LONG)], { mostFrames: 30 })).toEqual([{ frames: 30, last: [30] }]);
    expect(await visited([], {})).toEqual([]);
  });

  test('says how far it is, never more than all', async () => {
    const shares: number[] = [];
    const onProgress = (share: number) => shares.push(share);
    await pass([counting(LONG)], () => {}, { expectedS: (2 * PORTION_FRAMES) / STEM_RATE, onProgress });
    expect(shares).toEqual([0.5, LONG / (2 * PORTION_FRAMES)]);
    await pass([counting(LONG)], () => {}, { expectedS: 0, onProgress });
    expect(shares.slice(2)).toEqual([1, 1]);
  });

  test('a stem can be passed over up to a frame', async () => {
    const stem = counting(LONG);
    await skip(stem, PORTION_FRAMES + 9);
    const planes: Stereo = [new Float32Array(1), new Float32Array(1)];
    await stem.read(planes, 1);
    expect(planes[0][0]).toBe(PORTION_FRAMES + 10);
  });
});
