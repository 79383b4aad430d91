import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { Biquad, type Coefficients } from '../signal/biquad.ts';
import { kWeightingFor } from '../signal/kCoefficients.ts';
import { noise, sine } from '../testing/tones.ts';
import { KWeighting } from './kWeighting.ts';

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

  test('sums the power of two tones at once, whatever the portions that they come in', () => {
    const [first, second] = [sine(997, -20, 1), sine(997, -30, 1)];
    const filter = new KWeighting(48_000);
    const outputs: Stereo = [new Float32Array(first.length), new Float32Array(first.length)];
    filter.process([first, second], 0, first.length, outputs);
    const whole = [...filter.powers];
    const parts = new KWeighting(48_000);
    const sums = [0, 0];
    for (let start = 0; start < first.length; start += 777) {
      parts.process([first, second], start, Math.min(first.length - start, 777));
      for (const side of [0, 1]) sums[side] += parts.powers[side];
    }
    for (const [side, levelDb] of [-20, -30].entries()) {
      expect(sums[side]).toBeCloseTo(whole[side], 9);
      expect(10 * Math.log10(whole[side] / first.length)).toBeCloseTo(levelDb - 3.01 + 0.69, 1);
      expect(outputs[side].reduce((sum, value) => sum + value * value, 0)).toBeCloseTo(whole[side], 3);
    }
  });

  test('gives what both sections give one after the other', () => {
    const sound = noise(3, 4000);
    const filter = new KWeighting(48_000);
    const outputs: Stereo = [new Float32Array(sound.length), new Float32Array(sound.length)];
    filter.process([sound, sound], 0, sound.length, outputs);
    const expected = Float32Array.from(sound);
    for (const section of kWeightingFor(48_000)) new Biquad(section).process(expected, 0, expected.length);
    for (let i = 0; i < sound.length; i++) {
      expect(Math.abs(outputs[0][i] - expected[i])).toBeLessThan(1e-6);
      expect(outputs[1][i]).toBe(outputs[0][i]);
    }
  });

  test('falls to exactly nothing after a sound has ended', () => {
    const filter = new KWeighting(48_000);
    const silence = new Float32Array(48_000);
    const sound = sine(200, -6, 0.1);
    filter.process([sound, sound], 0, 4800);
    for (let second = 0; second < 20; second++) filter.process([silence, silence], 0, silence.length);
    filter.process([silence, silence], 0, silence.length);
    expect(filter.powers).toEqual([0, 0]);
  });
});
