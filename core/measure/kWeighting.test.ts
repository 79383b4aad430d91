import { describe, expect, test } from '@jest/globals';
import type { Coefficients } from '../signal/biquad.ts';
import { sine } from '../testing/tones.ts';
import { KWeighting, kWeightingFor } from './kWeighting.ts';

/** The gain (dB) of both sections of the K-weighting at a frequency. */
function gainDb(hz: number, sampleRate: number): number {
  return kWeightingFor(sampleRate).reduce((sum, section) => sum + sectionDb(section, hz, sampleRate), 0);
}

function sectionDb({ b0, b1, b2, a1, a2 }: Coefficients, hz: number, sampleRate: number): number {
  const w = (2 * Math.PI * hz) / sampleRate;
  const square = (c0: number, c1: number, c2: number) => {
    const re = c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w);
    const im = c1 * Math.sin(w) + c2 * Math.sin(2 * w);
    return re * re + im * im;
  };
  return 10 * Math.log10(square(b0, b1, b2) / square(1, a1, a2));
}

describe('the K-weighting', () => {
  test('at 48 kHz has the coefficients that BS.1770 publishes', () => {
    const [shelf, highPass] = kWeightingFor(48_000);
    expect(shelf.b0).toBeCloseTo(1.53512485958697, 10);
    expect(shelf.b1).toBeCloseTo(-2.69169618940638, 10);
    expect(shelf.b2).toBeCloseTo(1.19839281085285, 10);
    expect(shelf.a1).toBeCloseTo(-1.69065929318241, 10);
    expect(shelf.a2).toBeCloseTo(0.73248077421585, 10);
    expect(highPass.a1).toBeCloseTo(-1.99004745483398, 10);
    expect(highPass.a2).toBeCloseTo(0.99007225036621, 10);
  });

  test.each([
    [8000, 0.25],
    [16_000, 0.1],
    [44_100, 0.02],
    [96_000, 0.05],
    [192_000, 0.05],
  ])('at %i Hz is the same filter, within what the bilinear transform bends', (rate, toleranceDb) => {
    for (const hz of [30, 60, 120, 500, 997, 2000].filter((one) => one < rate / 10))
      expect(Math.abs(gainDb(hz, rate) - gainDb(hz, 48_000))).toBeLessThan(toleranceDb);
  });

  test('lets a tone of 997 Hz through 0.7 dB louder, which the loudness formula takes back', () => {
    expect(gainDb(997, 48_000)).toBeCloseTo(0.691, 2);
  });

  test('takes rumble away and lifts what is above 2 kHz by 4 dB', () => {
    expect(gainDb(10, 48_000)).toBeLessThan(-20);
    expect(gainDb(10_000, 48_000)).toBeCloseTo(4, 1);
  });

  test('sums the power of a tone, whatever the portions that it comes in', () => {
    const tone = sine(997, -20, 1);
    const out = new Float32Array(tone.length);
    const whole = new KWeighting(48_000).process(tone, 0, tone.length, out);
    const parts = new KWeighting(48_000);
    let sum = 0;
    for (let start = 0; start < tone.length; start += 777)
      sum += parts.process(tone, start, Math.min(tone.length - start, 777), out);
    expect(sum).toBeCloseTo(whole, 9);
    const rmsDb = 10 * Math.log10(whole / tone.length);
    expect(rmsDb).toBeCloseTo(-20 - 3.01 + 0.69, 1);
  });

  test('falls to exactly nothing after a sound has ended', () => {
    const filter = new KWeighting(48_000);
    const silence = new Float32Array(48_000);
    const out = new Float32Array(48_000);
    filter.process(sine(200, -6, 0.1), 0, 4800, out);
    for (let second = 0; second < 20; second++) filter.process(silence, 0, silence.length, out);
    expect(filter.process(silence, 0, silence.length, out)).toBe(0);
  });
});
