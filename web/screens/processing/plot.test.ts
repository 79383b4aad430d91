import { describe, expect, test } from '@jest/globals';
import { dbAt, hzAt, shareOfDb, shareOfHz } from './plot.ts';

describe('the plot of the filters', () => {
  test('has the same room for each octave, from 20 Hz to 20 kHz', () => {
    expect(shareOfHz(20)).toBe(0);
    expect(shareOfHz(20_000)).toBeCloseTo(1, 12);
    expect(shareOfHz(400) - shareOfHz(200)).toBeCloseTo(shareOfHz(8000) - shareOfHz(4000), 12);
    expect(hzAt(shareOfHz(1230))).toBe(1230);
    expect([hzAt(-1), hzAt(2)]).toEqual([20, 20_000]);
  });

  test('gives gains in half decibels, no further than a band goes', () => {
    expect(dbAt(shareOfDb(6))).toBe(6);
    expect(dbAt(shareOfDb(-7.3))).toBe(-7.5);
    expect([dbAt(-0.5), dbAt(1.5)]).toEqual([24, -24]);
  });
});
