import { describe, expect, test } from '@jest/globals';
import { noise, silence, sine } from '../testing/tones.ts';
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
    'signals 20 to 23: one louder period, made at four times the rate, brought down with offset %i',
    (offset) => {
      const found = dbtp(everyFourth(upTo(22_000, louderPeriod(), 4 * RATE), offset)) ?? Number.NaN;
      expect(found).toBeLessThanOrEqual(0.2);
      expect(found).toBeGreaterThanOrEqual(-0.4);
    },
  );

  test.each([0, 1, 2, 3])(
    'the same, cut down without a filter: what folds back counts as it does in a careful resampling (offset %i)',
    (offset) => {
      const folded = soft(everyFourth(louderPeriod(), offset));
      expect(Math.abs((dbtp(folded) ?? 0) - carefulDbtp(folded))).toBeLessThan(0.2);
    },
  );
});

/** A tone at a sixth of the rate with one period twice as loud, at four times the rate. */
function louderPeriod(): Float32Array {
  const period = 24;
  const loud = (at: number) => at >= 9600 && at < 9600 + period;
  return Float32Array.from(
    { length: (4 * RATE) / 10 },
    (_, at) => (loud(at) ? 1 : 0.5) * Math.sin((2 * Math.PI * at) / period),
  );
}

/** Every fourth sample, from an offset on. */
function everyFourth(samples: Float32Array, offset: number): Float32Array {
  return samples.filter((_, i) => i >= offset && (i - offset) % 4 === 0);
}

/** Takes out of a sound what lies above a frequency. */
function upTo(hz: number, samples: Float32Array, rate = RATE): Float32Array {
  const HALF = 400;
  const width = (2 * hz) / rate;
  const taps = Array.from({ length: 2 * HALF + 1 }, (_, k) => {
    const distance = k - HALF;
    const x = Math.PI * distance * width;
    return (
      (x === 0 ? 1 : Math.sin(x) / x) * width * (0.5 + 0.5 * Math.cos((Math.PI * distance) / (HALF + 1)))
    );
  });
  return samples.map((_, i) => taps.reduce((sum, tap, k) => sum + tap * (samples[i + k - HALF] ?? 0), 0));
}

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

const HALF = 256;
/** Eight filters of 512 taps, for the points between two samples. */
const CAREFUL = Array.from({ length: 8 }, (_, point) =>
  Float64Array.from({ length: 2 * HALF }, (_tap, k) => {
    const distance = k - HALF + 1 - point / 8;
    const x = Math.PI * distance;
    return (x === 0 ? 1 : Math.sin(x) / x) * (0.5 + 0.5 * Math.cos((Math.PI * distance) / (HALF + 1)));
  }),
);

/** The peak of a sound, resampled to eight times its rate with far longer filters. */
function carefulDbtp(samples: Float32Array): number {
  let peak = 0;
  for (let i = 0; i + 2 * HALF <= samples.length; i++)
    for (const taps of CAREFUL) {
      let sum = 0;
      for (let k = 0; k < taps.length; k++) sum += taps[k] * samples[i + k];
      peak = Math.max(peak, Math.abs(sum));
    }
  return 20 * Math.log10(peak);
}

/** A sound that begins and ends softly, with silence on both sides. */
function soft(samples: Float32Array): Float32Array {
  const padded = new Float32Array(samples.length + 1200);
  for (let i = 0; i < samples.length; i++)
    padded[600 + i] = samples[i] * Math.min(1, i / 300, (samples.length - 1 - i) / 300);
  return padded;
}

describe('beside a careful resampling to 384 kHz', () => {
  const FRAMES = 6000;
  const sawtooth = Float32Array.from({ length: FRAMES }, (_, i) => 0.8 * (((i * 997) / RATE) % 1) - 0.4);
  test.each<[string, Float32Array]>([
    ['white noise up to 20 kHz', upTo(20_000, noise(4, FRAMES))],
    ['more white noise up to 20 kHz', upTo(20_000, noise(11, FRAMES))],
    ['a sawtooth', sawtooth],
    ['a tone of 19.9 kHz', sine(19_900, -3, FRAMES / RATE, RATE, 41)],
    ['a tone of 13.7 kHz', sine(13_700, -3, FRAMES / RATE, RATE, 10)],
  ])('%s is read within 0.2 dB', (_name, samples) => {
    const padded = soft(samples);
    expect(Math.abs((dbtp(padded) ?? 0) - carefulDbtp(padded))).toBeLessThan(0.2);
  });

  test('white noise up to half the rate, of which no filter of a finite length has all, is read within 0.5 dB', () => {
    const apart = [4, 11, 12, 13].map((seed) => {
      const padded = soft(noise(seed, FRAMES));
      return (dbtp(padded) ?? 0) - carefulDbtp(padded);
    });
    expect(Math.max(...apart.map(Math.abs))).toBeLessThan(0.5);
    expect(Math.abs(apart.reduce((sum, one) => sum + one, 0) / apart.length)).toBeLessThan(0.2);
  });
});
