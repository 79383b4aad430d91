import { describe, expect, test } from '@jest/globals';
import { toMono } from '../signal/mono.ts';
import { silence, sine } from '../testing/tones.ts';
import { foldDownFor, foldToStereo } from './foldDown.ts';

describe('folding down to stereo', () => {
  test('mono goes to both sides at full level, stereo stays as it is', () => {
    const tone = sine(440, -6, 0.1);
    expect(foldToStereo([tone])).toEqual([tone, tone]);
    const other = sine(880, -6, 0.1);
    expect(foldToStereo([tone, other])).toEqual([tone, other]);
  });

  test('5.1 follows ITU-R BS.775: centre and surrounds at −3 dB, no LFE', () => {
    const { left, right } = foldDownFor(6);
    expect(left.map((weight) => weight.toFixed(4))).toEqual([
      '1.0000',
      '0.0000',
      '0.7071',
      '0.0000',
      '0.7071',
      '0.0000',
    ]);
    expect(right.map((weight) => weight.toFixed(4))).toEqual([
      '0.0000',
      '1.0000',
      '0.7071',
      '0.0000',
      '0.0000',
      '0.7071',
    ]);
  });

  test.each([3, 4, 5, 6, 7, 8, 12])(
    '%i channels: every sounding channel but the LFE is heard on some side',
    (channels) => {
      const { left, right } = foldDownFor(channels);
      for (let channel = 0; channel < channels; channel++) {
        const isLfe = (channels === 6 || channels === 8) && channel === 3;
        expect(left[channel] + right[channel] > 0).toBe(!isLfe);
      }
    },
  );
});

describe('folding to mono for measuring', () => {
  test('takes the mean of both sides', () => {
    const mono = toMono([Float32Array.of(0.4, 0.2), Float32Array.of(0.2, 0.2)]);
    expect(mono[0]).toBeCloseTo(0.3, 6);
    expect(mono[1]).toBeCloseTo(0.2, 6);
  });

  test('a sound whose sides cancel is not taken for silence', () => {
    const tone = sine(440, -6, 0.1);
    expect(toMono([tone, tone.map((value) => -value)])).toEqual(tone);
    expect(toMono([silence(0.1), silence(0.1)])).toEqual(silence(0.1));
  });
});
