import { beforeAll, describe, expect, test } from '@jest/globals';
import { Kernels } from '../kernels/kernels.ts';
import { noise } from '../testing/tones.ts';
import { loadFft, type RealFft } from './fft.ts';
import {
  Correlator,
  highestPeak,
  LAGS,
  REFERENCE_SHARE,
  robustSpread,
  TRACK_SHARE,
} from './presence/correlate.ts';
import { FLAT_WINDOW_FRAMES, MAX_LAG, TRANSFORM_FRAMES } from './presence/windows.ts';
import { WaveformOutline } from './waveform.ts';

let makeFft: (size: number) => RealFft;
beforeAll(async () => {
  makeFft = await loadFft();
});

describe('the transform', () => {
  test('agrees with the sum that defines it', () => {
    const size = 96;
    const samples = noise(1, size);
    const spectrum = new Float32Array(size);
    makeFft(size).forward(samples, spectrum);
    for (const bin of [1, 5, 17, 47]) {
      let re = 0;
      let im = 0;
      samples.forEach((value, i) => {
        re += value * Math.cos((2 * Math.PI * bin * i) / size);
        im -= value * Math.sin((2 * Math.PI * bin * i) / size);
      });
      expect(spectrum[2 * bin]).toBeCloseTo(re, 4);
      expect(spectrum[2 * bin + 1]).toBeCloseTo(im, 4);
    }
  });

  test('there and back multiplies by the length', () => {
    const samples = noise(2, 1920);
    const spectrum = new Float32Array(1920);
    const back = new Float32Array(1920);
    const fft = makeFft(1920);
    fft.forward(samples, spectrum);
    fft.inverse(spectrum, back);
    for (let i = 0; i < 1920; i += 37) expect(back[i] / 1920).toBeCloseTo(samples[i], 5);
  });

  test('refuses a length that it cannot do, in words', () => {
    expect(() => makeFft(1001)).toThrow(/an FFT of 1001 points is not possible/);
  });
});

describe('the correlation', () => {
  test.each([0, 1, 777, -12_345, MAX_LAG])(
    'has its peak where the track lags by %i frames, in either polarity',
    (lag) => {
      const whole = noise(3, FLAT_WINDOW_FRAMES + 2 * MAX_LAG);
      const reference = whole.subarray(MAX_LAG, MAX_LAG + FLAT_WINDOW_FRAMES);
      const track = whole.slice(MAX_LAG - lag, MAX_LAG - lag + FLAT_WINDOW_FRAMES);
      const kernels = new Kernels(1 << 20);
      const correlator = new Correlator(makeFft, kernels);
      const phases = (samples: Float32Array, share: number) => {
        const spectrum = kernels.floats(TRANSFORM_FRAMES);
        correlator.phases(samples, spectrum, share);
        return spectrum;
      };
      const lags = new Float32Array(LAGS);
      const mine = phases(reference, REFERENCE_SHARE);
      correlator.correlate(mine, phases(track, TRACK_SHARE), lags);
      const peak = highestPeak(lags);
      expect(Math.abs(peak.lag - lag)).toBeLessThan(0.5);
      expect(peak).toMatchObject({ polarity: 1 });
      expect(peak.height).toBeGreaterThan(100);
      correlator.correlate(
        mine,
        phases(
          track.map((value) => -value),
          TRACK_SHARE,
        ),
        lags,
      );
      expect(highestPeak(lags)).toMatchObject({ polarity: -1 });
    },
  );

  test('the robust spread of a uniform sound is 1.4826 medians of its magnitude, outliers or not', () => {
    const values = noise(4, 20_000);
    values[77] = 1e6;
    expect(robustSpread(values)).toBeCloseTo(1.4826 * 0.25, 1);
  });
});

test('the outline holds the largest magnitude of each stretch, the unfinished last one too', () => {
  const outline = new WaveformOutline(4);
  const left = Float32Array.of(0.1, -0.5, 0, 0, 0.2, 0.1, 0, 0, -0.9);
  const right = Float32Array.of(0, 0, 0.25, 0, 0, 0.3, 0, 0, 0);
  outline.add([left.subarray(0, 5), right.subarray(0, 5)], 5);
  outline.add([left.subarray(5), right.subarray(5)], 4);
  expect(outline.result()).toEqual([0.5, 0.3, 0.9]);
});
