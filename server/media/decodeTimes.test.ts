import { expect, test } from '@jest/globals';
import { DecodeTimes, type Timed } from './decodeTimes.ts';

/** Feeds pictures in the order of decoding, by when they are shown. */
function timed(shown: number[]): Timed<number>[] {
  const times = new DecodeTimes<number>();
  return [...shown.flatMap((at, packet) => times.add(packet, at)), ...times.flush()];
}

test('pictures keep their order, and are decoded at the times at which pictures are shown', () => {
  const shown = [0, 3, 1, 2, 6, 4, 5, 9, 7, 8];
  const all = timed(shown);
  expect(all.map(({ packet }) => packet)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
  expect(all.map(({ shownAt }) => shownAt)).toEqual(shown);
  expect(all.map(({ decodedAt }) => decodedAt)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
});

test('hours of pictures are handed on as they come', () => {
  const times = new DecodeTimes<number>();
  let waiting = 0;
  for (let at = 0; at < 10_000; at++) {
    // Each second picture is shown before the one that comes before it.
    waiting += 1 - times.add(at, at ^ 1).length;
    expect(waiting).toBeLessThanOrEqual(32);
  }
  expect(times.flush()).toHaveLength(waiting);
});

test('no two pictures are decoded at once, though they are shown at one time', () => {
  expect(timed([5, 5, 5, 6]).map(({ decodedAt }) => decodedAt)).toEqual([5, 6, 7, 8]);
});
