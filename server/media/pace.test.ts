import { expect, test } from '@jest/globals';
import { paceOf } from './pace.ts';

const rounded = (time: number) => Math.round(time * 1000) / 1000;

test.each([
  [30, 1],
  [60, 1],
  [24_000, 1001],
  [30_000, 1001],
  [60_000, 1001],
  [144, 1],
])('%d pictures in %d s are known from rounded times', (pictures, seconds) => {
  const times = Array.from({ length: 600 }, (_, at) => rounded(0.0213 + (at * seconds) / pictures));
  expect(paceOf(times)).toBeCloseTo(seconds / pictures, 9);
});

test('a few lost pictures leave the pace, uneven ones have none', () => {
  const times = Array.from({ length: 300 }, (_, at) => rounded(at / 30)).filter((_, at) => at % 70 !== 69);
  expect(paceOf(times)).toBeCloseTo(1 / 30, 9);
  expect(paceOf(times.map((time, at) => (at === 200 ? time + 0.004 : time)))).toBeNull();
  expect(paceOf(Array.from({ length: 300 }, (_, at) => rounded(at / 23)))).toBeNull();
  expect(paceOf(times.slice(0, 20))).toBeNull();
});
