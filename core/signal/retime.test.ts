import { describe, expect, test } from '@jest/globals';
import { Retimer } from './retime.ts';

const RATE = 48_000;
const tone = (frame: number, hz: number) => Math.sin((2 * Math.PI * hz * frame) / RATE);

/** All of a new sound, of an old one that comes in portions. */
function retimed(retimer: Retimer, old: Float32Array, inAll: number, portion = 1000): Float32Array {
  const made: number[] = [];
  for (let from = 0; from < old.length; from += portion)
    made.push(...retimer.push([old.subarray(from, from + portion)], inAll)[0]);
  while (made.length < inAll) made.push(...retimer.flush(inAll, 700)[0]);
  return Float32Array.from(made);
}

describe('sound is moved in time', () => {
  test.each([
    [0, 1],
    [123.25, 1],
    [-77.5, 1 + 60e-6],
    [10, 1 - 500e-6],
  ])('from %d on by steps of %d, a tone is what it is at those moments', (startsAt, step) => {
    const frames = RATE / 2;
    const old = Float32Array.from({ length: frames }, (_, i) => tone(i, 9000));
    const made = retimed(new Retimer(1, startsAt, step), old, frames);
    let worst = 0;
    for (let i = 200; i < frames - 300; i++)
      worst = Math.max(worst, Math.abs(made[i] - tone(startsAt + i * step, 9000)));
    expect(20 * Math.log10(worst)).toBeLessThan(-80);
  });

  test('before and after the old sound it is silent, and as long as it is to be', () => {
    const old = new Float32Array(1000).fill(0.5);
    const made = retimed(new Retimer(1, -2000, 1), old, 6000);
    expect(made).toHaveLength(6000);
    expect(made[1900]).toBe(0);
    expect(made[2500]).toBeCloseTo(0.5, 4);
    expect(made[3100]).toBe(0);
    // It began before: what lies before the start is left out.
    expect(retimed(new Retimer(1, 500, 1), old, 800)[0]).toBeCloseTo(0.5, 4);
    expect(retimed(new Retimer(1, 5000, 1), old, 10).every((value) => value === 0)).toBe(true);
  });

  test('portions do not matter, and channels stay apart', () => {
    const left = Float32Array.from({ length: 4000 }, (_, i) => tone(i, 440));
    const right = new Float32Array(4000);
    const whole = new Retimer(2, 3.3, 1.0001).push([left, right]);
    const parts = retimed(new Retimer(1, 3.3, 1.0001), left, whole[0].length, 37);
    expect(parts).toEqual(whole[0]);
    expect(whole[1].every((value) => value === 0)).toBe(true);
  });
});
