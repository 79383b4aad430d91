import { expect, test } from '@jest/globals';
import { DecodeTimes, type Timed } from './decodeTimes.ts';

/** Feeds pictures in the order of decoding, by when they are shown. */
function timed(shown: number[], lasts = 1): Timed<number>[] {
  const times = new DecodeTimes<number>();
  return [...shown.flatMap((at, packet) => times.add(packet, at, lasts)), ...times.flush()];
}

function expectSound(all: Timed<number>[], shown: number[]): void {
  expect(all.map(({ packet }) => packet)).toEqual(shown.map((_, at) => at));
  expect(all.map(({ shownAt }) => shownAt)).toEqual(shown);
  for (const [at, { shownAt, decodedAt }] of all.entries()) {
    expect(decodedAt).toBeLessThanOrEqual(shownAt);
    if (at > 0) expect(decodedAt).toBeGreaterThan(all[at - 1].decodedAt);
  }
}

test('pictures that are shown as they come are decoded when they are shown', () => {
  const all = timed([0, 10, 20, 30], 10);
  expect(all.map(({ decodedAt }) => decodedAt)).toEqual([0, 10, 20, 30]);
});

test('pictures keep their order, and each is decoded before it is shown', () => {
  const shown = [0, 30, 10, 20, 60, 40, 50, 90, 70, 80];
  const all = timed(shown, 10);
  expectSound(all, shown);
  expect(all.map(({ decodedAt }) => decodedAt)).toEqual([-10, 0, 10, 20, 30, 40, 50, 60, 70, 80]);
});

test('pictures that are held back longer later on are decoded in time', () => {
  const pyramid = [4, 2, 1, 3, 8, 6, 5, 7].map((at) => 1000 + 10 * at);
  const shown = [...Array.from({ length: 100 }, (_, at) => 10 * at), ...pyramid];
  expectSound(timed(shown, 10), shown);
});

test('hours of pictures are handed on as they come', () => {
  const times = new DecodeTimes<number>();
  let waiting = 0;
  for (let at = 0; at < 10_000; at++) {
    // Each second picture is shown before the one that comes before it.
    waiting += 1 - times.add(at, at ^ 1, 1).length;
    expect(waiting).toBeLessThanOrEqual(32);
  }
  expect(times.flush()).toHaveLength(waiting);
});

test('no two pictures are decoded at once, though they are shown at one time', () => {
  expect(timed([5, 5, 5, 6]).map(({ decodedAt }) => decodedAt)).toEqual([3, 4, 5, 6]);
});
