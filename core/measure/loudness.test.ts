import { describe, expect, test } from '@jest/globals';
import { kWeightingFor } from '../signal/kCoefficients.ts';
import { joined, silence, sine } from '../testing/tones.ts';
import { LoudnessMeter } from './loudness.ts';

/** Measures a sound that is the same on both sides. */
function measure(samples: Float32Array, sampleRate = 48_000) {
  const meter = new LoudnessMeter(sampleRate, 2);
  meter.add([samples, samples], samples.length);
  return { ...meter.result(), meter };
}

const tone = (dbfs: number, seconds: number) => sine(1000, dbfs, seconds);

describe('EBU Tech 3341, integrated loudness', () => {
  test.each<[string, Float32Array, number]>([
    ['1: −23 dBFS for 20 s', tone(-23, 20), -23],
    ['2: −33 dBFS for 20 s', tone(-33, 20), -33],
    ['3: −36, −23, −36 dBFS', joined(tone(-36, 10), tone(-23, 60), tone(-36, 10)), -23],
    [
      '4: −72, −36, −23, −36, −72 dBFS',
      joined(tone(-72, 10), tone(-36, 10), tone(-23, 60), tone(-36, 10), tone(-72, 10)),
      -23,
    ],
    ['5: −26, −20, −26 dBFS', joined(tone(-26, 20), tone(-20, 20.1), tone(-26, 20)), -23],
  ])('signal %s', (_name, samples, lufs) => {
    expect(Math.abs((measure(samples).integratedLufs ?? 0) - lufs)).toBeLessThanOrEqual(0.1);
  });

  test('signal 6: five channels at −28, −28, −24, −30, −30 dBFS', () => {
    const planes = [-28, -28, -24, -30, -30].map((dbfs) => tone(dbfs, 20));
    const meter = new LoudnessMeter(48_000, 5);
    meter.add(planes, planes[0].length);
    expect(Math.abs((meter.result().integratedLufs ?? 0) + 23)).toBeLessThanOrEqual(0.1);
  });
});

describe('EBU Tech 3341, momentary and short-term loudness', () => {
  test('signal 9: short-term stays at −23 LUFS over alternating levels', () => {
    const samples = joined(...Array.from({ length: 5 }, () => joined(tone(-20, 1.34), tone(-30, 1.66))));
    for (const lufs of measure(samples).meter.shortTermCourse())
      expect(Math.abs(lufs + 23)).toBeLessThanOrEqual(0.1);
  });

  test('signal 12: momentary stays at −23 LUFS over alternating levels, from 1 s on', () => {
    const samples = joined(...Array.from({ length: 25 }, () => joined(tone(-20, 0.18), tone(-30, 0.22))));
    const meter = new LoudnessMeter(48_000, 2);
    for (let at = 0; at < samples.length; at += 4800) {
      const part = samples.subarray(at, at + 4800);
      meter.add([part, part], part.length);
      if (at >= 48_000) expect(Math.abs((meter.momentary() ?? 0) + 23)).toBeLessThanOrEqual(0.1);
    }
  });

  test.each(Array.from({ length: 20 }, (_, i) => i))(
    'signal 10, file %i: the largest short-term loudness is −23 LUFS',
    (i) => {
      const samples = joined(silence(i * 0.15), tone(-23, 3), silence(1));
      expect(Math.abs((measure(samples).maxShortTermLufs ?? 0) + 23)).toBeLessThanOrEqual(0.1);
    },
  );

  test.each(Array.from({ length: 20 }, (_, i) => i))(
    'signal 13, file %i: the largest momentary loudness is −23 LUFS',
    (i) => {
      const samples = joined(silence(i * 0.02), tone(-23, 0.4), silence(1));
      expect(Math.abs((measure(samples).maxMomentaryLufs ?? 0) + 23)).toBeLessThanOrEqual(0.1);
    },
  );

  test('signals 11 and 14: the largest value follows a tone that gets louder', () => {
    const steps = Array.from({ length: 20 }, (_, i) => i);
    const slow = new LoudnessMeter(48_000, 2);
    const fast = new LoudnessMeter(48_000, 2);
    const add = (meter: LoudnessMeter, samples: Float32Array) =>
      meter.add([samples, samples], samples.length);
    for (const i of steps) {
      add(slow, joined(silence(i * 0.15), tone(-38 + i, 3), silence(3 - i * 0.15)));
      expect(Math.abs((slow.result().maxShortTermLufs ?? 0) - (-38 + i))).toBeLessThanOrEqual(0.1);
      add(fast, joined(silence(i * 0.02), tone(-38 + i, 0.4), silence(0.4 - i * 0.02)));
      expect(Math.abs((fast.result().maxMomentaryLufs ?? 0) - (-38 + i))).toBeLessThanOrEqual(0.1);
    }
  });
});

describe('EBU Tech 3342, loudness range', () => {
  test.each<[string, number[], number]>([
    ['1: −20 and −30 dBFS', [-20, -30], 10],
    ['2: −20 and −15 dBFS', [-20, -15], 5],
    ['3: −40 and −20 dBFS', [-40, -20], 20],
    ['4: −50, −35, −20, −35, −50 dBFS', [-50, -35, -20, -35, -50], 15],
  ])('signal %s', (_name, levels, range) => {
    const { loudnessRangeLu } = measure(joined(...levels.map((dbfs) => tone(dbfs, 20))));
    expect(Math.abs((loudnessRangeLu ?? 0) - range)).toBeLessThanOrEqual(1);
  });
});

describe('the meter', () => {
  test('K-weighting at 48 kHz is that of the tables in ITU-R BS.1770-5 Annex 1', () => {
    const [shelf, highPass] = kWeightingFor(48_000);
    expect(shelf.b0).toBeCloseTo(1.53512485958697, 8);
    expect(shelf.b1).toBeCloseTo(-2.69169618940638, 8);
    expect(shelf.b2).toBeCloseTo(1.19839281085285, 8);
    expect(shelf.a1).toBeCloseTo(-1.69065929318241, 8);
    expect(shelf.a2).toBeCloseTo(0.73248077421585, 8);
    expect(highPass.a1).toBeCloseTo(-1.99004745483398, 8);
    expect(highPass.a2).toBeCloseTo(0.99007225036621, 8);
  });

  test.each([8_000, 22_050, 44_100, 96_000, 192_000])('reads the same at %i Hz', (sampleRate) => {
    const samples = sine(997, -20, 6, sampleRate);
    expect(Math.abs((measure(samples, sampleRate).integratedLufs ?? 0) + 20)).toBeLessThanOrEqual(0.1);
  });

  test('gives null for silence, and for sound below the absolute gate', () => {
    expect(measure(silence(5))).toMatchObject({
      integratedLufs: null,
      loudnessRangeLu: null,
      maxMomentaryLufs: null,
    });
    expect(measure(tone(-80, 5)).integratedLufs).toBeNull();
  });

  test('does not depend on how the sound is portioned', () => {
    const samples = joined(tone(-20, 2.3), tone(-40, 1.7), tone(-14, 2.2));
    const meter = new LoudnessMeter(48_000, 2);
    for (let at = 0, size = 1; at < samples.length; at += size, size = (size * 7) % 5003) {
      const count = Math.min(size, samples.length - at);
      meter.add([samples, samples], count, at);
    }
    expect(meter.result()).toEqual(measure(samples).meter.result());
  });
});
