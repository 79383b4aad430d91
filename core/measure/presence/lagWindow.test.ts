import { expect, test } from '@jest/globals';
import { lagTaps, lagWeight, TAPS_ASIDE } from './lagWindow.ts';
import { MAX_LAG, TRANSFORM_FRAMES } from './windows.ts';

/** What the taps make of a lag. */
function weightOf(lag: number): number {
  return lagTaps().reduce(
    (sum, tap, i) => sum + tap * Math.cos((2 * Math.PI * (i - TAPS_ASIDE) * lag) / TRANSFORM_FRAMES),
    0,
  );
}

test.each([0, 1, -777, 9_000, MAX_LAG])('the taps weight a lag of %i frames as is said', (lag) => {
  expect(weightOf(lag)).toBeCloseTo(lagWeight(lag), 6);
  expect(lagWeight(lag)).toBeGreaterThan(0.6);
});

test('whatever falls on a wanted lag is 55 dB down', () => {
  for (let lag = -MAX_LAG; lag <= MAX_LAG; lag += 250)
    for (const other of [lag - TRANSFORM_FRAMES / 3, lag + TRANSFORM_FRAMES / 3])
      expect(Math.abs(weightOf(other))).toBeLessThan(10 ** (-55 / 20));
});
