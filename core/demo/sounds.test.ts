import { describe, expect, test } from '@jest/globals';
import { LoudnessMeter } from '../measure/loudness.ts';
import { DEMO_RATE, DEMO_SECONDS } from './canvas.ts';
import { recordSound } from './records.ts';
import { SCENARIO } from './scenario.ts';
import { bellSound, humSound, pingSound } from './signals.ts';

describe('the demo sounds', () => {
  test('are the same each time they are made, and others for another seed', () => {
    const first = recordSound(31, undefined, 4);
    expect(recordSound(31, undefined, 4)).toEqual(first);
    expect(recordSound(32, undefined, 4).left).not.toEqual(first.left);
  });

  test.each([
    ['Bellbuoy', bellSound, SCENARIO.memberBells],
    ['the pings', pingSound, SCENARIO.pings],
  ] as const)(
    '%s are silent until they sound, last as long as the session, and do not clip',
    (_name, make, times) => {
      const { left, right } = make();
      expect(left).toHaveLength(DEMO_SECONDS * DEMO_RATE);
      const before = Math.round(times[0] * DEMO_RATE);
      expect(left.subarray(0, before).every((value) => value === 0)).toBe(true);
      expect(left.subarray(before, before + 4800).some((value) => Math.abs(value) > 0.05)).toBe(true);
      expect([left, right].every((plane) => plane.every((value) => Math.abs(value) <= 1))).toBe(true);
      const meter = new LoudnessMeter(DEMO_RATE, 2);
      meter.add([left, right], left.length);
      expect(meter.result().integratedLufs ?? -99).toBeGreaterThan(-30);
    },
  );

  test('one bell falls into the middle of the narrator’s sentence of thanks', () => {
    const thanks = { fromS: 34.6, untilS: 40.6 };
    expect(SCENARIO.memberBells.some((time) => time > thanks.fromS + 1 && time < thanks.untilS - 1)).toBe(
      true,
    );
  });

  test('hum has its power at the mains frequency and its harmonics', () => {
    const hum = humSound(2, 60);
    const power = (hz: number) => {
      let re = 0;
      let im = 0;
      hum.forEach((value, i) => {
        re += value * Math.cos((2 * Math.PI * hz * i) / DEMO_RATE);
        im += value * Math.sin((2 * Math.PI * hz * i) / DEMO_RATE);
      });
      return Math.hypot(re, im);
    };
    for (const harmonic of [1, 2, 3])
      expect(power(60 * harmonic)).toBeGreaterThan(20 * power(60 * harmonic + 25));
  });
});
