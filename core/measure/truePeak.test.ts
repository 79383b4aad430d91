import { describe, expect, test } from '@jest/globals';
import { silence, sine } from '../testing/tones.ts';
import { TruePeakMeter } from './truePeak.ts';

const RATE = 48_000;

function dbtp(samples: Float32Array): number | null {
  const meter = new TruePeakMeter();
  meter.add(samples);
  return meter.peakDbtp();
}

/** A tone at a whole fraction of the sample rate, as its continuous form has the given peak. */
function toneAt(fraction: number, peak: number, phase: number): Float32Array {
  const samples = sine(RATE / fraction, 20 * Math.log10(peak), 1, RATE, phase);
  const fade = 480;
  for (let i = 0; i < fade; i++) {
    samples[i] *= i / fade;
    samples[samples.length - 1 - i] *= i / fade;
  }
  return samples;
}

describe('EBU Tech 3341, true peak (+0.2 / −0.4 dB)', () => {
  test.each<[string, Float32Array, number]>([
    ['15: a quarter of the rate, 0.5, 0°', toneAt(4, 0.5, 0), -6],
    ['16: a quarter of the rate, 0.5, 45°', toneAt(4, 0.5, 45), -6],
    ['17: a sixth, 0.5, 60°', toneAt(6, 0.5, 60), -6],
    ['18: an eighth, 0.5, 67.5°', toneAt(8, 0.5, 67.5), -6],
    ['19: a quarter, 1.41, 45°', toneAt(4, 1.41, 45), 3],
  ])('signal %s', (_name, samples, expected) => {
    const found = dbtp(samples) ?? Number.NaN;
    expect(found).toBeLessThanOrEqual(expected + 0.2);
    expect(found).toBeGreaterThanOrEqual(expected - 0.4);
  });

  test.each([0, 1, 2, 3])(
    'signals 20 to 23: one louder period, made at four times the rate, taken with offset %i',
    (offset) => {
      const fine = 4 * RATE;
      const period = 24;
      const samples = new Float32Array(RATE / 10);
      for (let i = 0; i < samples.length; i++) {
        const at = 4 * i + offset;
        const isLoud = at >= 9600 && at < 9600 + period;
        samples[i] = (isLoud ? 1 : 0.5) * Math.sin((2 * Math.PI * (fine / period) * at) / fine);
      }
      const found = dbtp(samples) ?? Number.NaN;
      expect(found).toBeLessThanOrEqual(0.2);
      expect(found).toBeGreaterThanOrEqual(-0.4);
    },
  );
});

describe('the meter', () => {
  test('gives null for silence', () => {
    expect(dbtp(silence(1))).toBeNull();
  });

  test('does not depend on how the sound is portioned', () => {
    const samples = toneAt(4, 0.9, 30);
    const meter = new TruePeakMeter();
    for (let at = 0, size = 1; at < samples.length; at += size, size = (size * 5) % 97)
      meter.add(samples, at, Math.min(samples.length, at + size));
    expect(meter.peakDbtp()).toBeCloseTo(dbtp(samples) ?? 0, 6);
  });

  test('is never below the largest sample', () => {
    const samples = silence(0.1);
    samples[777] = -0.8;
    expect(dbtp(samples) ?? -99).toBeGreaterThanOrEqual(20 * Math.log10(0.8) - 1e-6);
  });
});
