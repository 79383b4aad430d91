import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, test } from '@jest/globals';
import { toDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { Biquad, coefficientsOf, responseDb } from '../signal/biquad.ts';
import { Compressor, type CompressorSettings, staticCurve } from '../signal/compressor.ts';
import { Gate, type GateSettings } from '../signal/gate.ts';
import { loadNoiseReduction } from '../signal/noiseReduction.ts';
import { joined, noise, rms, silence, sine } from '../testing/tones.ts';
import { Chain } from './chain.ts';
import { PROCESSORS, type Processing, ProcessingSchema } from './processing.ts';

const RATE = 48_000;
beforeAll(() => loadNoiseReduction());
const both = (sound: Float32Array): Stereo => [sound.slice(), sound.slice()];
/** A square wave: its level is the same at every sample. */
const square = (db: number, seconds: number) =>
  Float32Array.from({ length: seconds * RATE }, (_, i) => (i % 96 < 48 ? 1 : -1) * 10 ** (db / 20));

describe('filters', () => {
  test.each([
    ['high-pass', 100, Math.SQRT1_2, 0],
    ['bell', 1000, 1, 6],
    ['bell', 3000, 4, -9],
    ['low-shelf', 200, 0.7, -6],
    ['high-shelf', 6000, 0.7, 4],
  ] as const)('a %s at %d Hz lets tones through as its response says, to 0.1 dB', (shape, hz, q, gainDb) => {
    const section = coefficientsOf(shape, hz, q, gainDb, RATE);
    for (const tone of [30, 100, 440, 1000, 3000, 9000, 15_000]) {
      const sound = sine(tone, -20, 1);
      const before = rms(sound.subarray(RATE / 2));
      new Biquad(section).process(sound, 0, sound.length);
      expect(
        Math.abs(toDb(rms(sound.subarray(RATE / 2)) / before) - responseDb(section, tone, RATE)),
      ).toBeLessThan(0.1);
    }
  });

  test('stand where the cookbook puts them', () => {
    const at = (shape: Parameters<typeof coefficientsOf>[0], hz: number, gainDb: number, where: number) =>
      responseDb(coefficientsOf(shape, hz, Math.SQRT1_2, gainDb, RATE), where, RATE);
    expect(at('high-pass', 100, 0, 100)).toBeCloseTo(-3.01, 2);
    expect(at('high-pass', 100, 0, 50)).toBeCloseTo(-12.3, 1);
    expect(at('high-pass', 100, 0, 5000)).toBeCloseTo(0, 3);
    expect(at('bell', 1000, 6, 1000)).toBeCloseTo(6, 6);
    expect(at('low-shelf', 500, -6, 5)).toBeCloseTo(-6, 2);
    expect(at('low-shelf', 500, -6, 500)).toBeCloseTo(-3, 2);
    expect(at('low-shelf', 500, -6, 20_000)).toBeCloseTo(0, 2);
    expect(at('high-shelf', 4000, 5, 23_900)).toBeCloseTo(5, 2);
    expect(at('high-shelf', 4000, 5, 20)).toBeCloseTo(0, 3);
  });

  test('give the same whatever the portions, and fall silent after a sound', () => {
    const section = coefficientsOf('bell', 700, 2, 8, RATE);
    const whole = noise(1, 4800);
    const parts = whole.slice();
    new Biquad(section).process(whole, 0, 4800);
    const filter = new Biquad(section);
    for (let at = 0; at < 4800; at += 100) filter.process(parts, at, at + 100);
    expect(parts).toEqual(whole);
    let rest = silence(2);
    for (let i = 0; i < 5; i++) {
      rest = silence(2);
      filter.process(rest, 0, rest.length);
    }
    expect(rest.every((value) => value === 0)).toBe(true);
  });
});

describe('the noise gate', () => {
  const settings: GateSettings = {
    opensDb: -40,
    hysteresisDb: 6,
    rangeDb: -30,
    attackMs: 20,
    holdMs: 100,
    releaseMs: 50,
  };
  const gated = (sound: Float32Array, changes: Partial<GateSettings> = {}) => {
    const planes = both(sound);
    new Gate({ ...settings, ...changes }, RATE).process(planes, 0, sound.length);
    return planes[0];
  };
  const gainAt = (sound: Float32Array, out: Float32Array, at: number) => toDb(out[at] / sound[at]);

  test('turns what is under it down by its range, and lets what is over it through whole', () => {
    const quiet = square(-50, 1);
    expect(gainAt(quiet, gated(quiet), 40_000)).toBeCloseTo(-30, 1);
    const loud = square(-20, 1);
    expect(gainAt(loud, gated(loud), 40_000)).toBeCloseTo(0, 2);
  });

  test('stays open between its two levels once it is open, but does not open there', () => {
    const between = square(-43, 1);
    expect(gainAt(between, gated(between), 40_000)).toBeCloseTo(-30, 1);
    const after = joined(square(-20, 0.5), between);
    expect(gainAt(after, gated(after), 60_000)).toBeCloseTo(0, 1);
  });

  test('opens and closes with its time constants, to 5 %, after its hold', () => {
    const sound = joined(square(-60, 0.5), square(-20, 0.5), square(-60, 1));
    const out = gated(sound);
    const gains = Array.from({ length: sound.length }, (_, i) => gainAt(sound, out, i));
    const opened = gains.findIndex((gain, i) => i >= RATE / 2 && gain > -29.99);
    const at = gains.findIndex((gain, i) => i >= opened && gain >= -30 * Math.exp(-1));
    expect(Math.abs((at - opened) / RATE - 0.02) / 0.02).toBeLessThan(0.05);
    const closing = gains.findIndex((gain, i) => i > RATE && gain < -0.05);
    const fell = gains.findIndex((gain, i) => i > closing && gain <= -30 * (1 - Math.exp(-1)));
    expect(Math.abs((fell - closing) / RATE - 0.05) / 0.05).toBeLessThan(0.05);
    expect((closing - RATE) / RATE).toBeGreaterThan(0.1);
    expect((closing - RATE) / RATE).toBeLessThan(0.17);
  });

  test('both sides open together', () => {
    const planes: Stereo = [square(-20, 0.5), square(-60, 0.5)];
    const before = planes[1].slice();
    new Gate(settings, RATE).process(planes, 0, before.length);
    expect(gainAt(before, planes[1], 20_000)).toBeCloseTo(0, 1);
  });
});

describe('the compressor', () => {
  const settings: CompressorSettings = {
    thresholdDb: -20,
    ratio: 4,
    kneeDb: 8,
    attackMs: 10,
    releaseMs: 100,
    makeUpDb: 0,
  };
  const compressed = (sound: Float32Array, changes: Partial<CompressorSettings> = {}) => {
    const planes = both(sound);
    new Compressor({ ...settings, ...changes }, RATE).process(planes, 0, sound.length);
    return planes[0];
  };

  test('has the static curve of its settings: straight, a knee, and the ratio', () => {
    expect(staticCurve(-40, settings)).toBe(-40);
    expect(staticCurve(-24, settings)).toBeCloseTo(-24, 9);
    expect(staticCurve(-20, settings)).toBeCloseTo(-20 - (0.75 * 16) / 16, 9);
    expect(staticCurve(-16, settings)).toBeCloseTo(-19, 9);
    expect(staticCurve(0, settings)).toBeCloseTo(-15, 9);
    expect(staticCurve(-10, { ...settings, kneeDb: 0 })).toBeCloseTo(-17.5, 9);
    expect(staticCurve(-10, { ...settings, ratio: 1 })).toBe(-10);
  });

  test.each([-40, -26, -22, -20, -18, -12, -6, 0])(
    'brings a steady %d dBFS to its curve, to 0.1 dB',
    (level) => {
      const out = compressed(square(level, 1.5));
      expect(Math.abs(toDb(out[out.length - 10]) - staticCurve(level, settings))).toBeLessThan(0.1);
      const made = compressed(square(level, 1.5), { makeUpDb: 5 });
      expect(Math.abs(toDb(made[made.length - 10]) - staticCurve(level, settings) - 5)).toBeLessThan(0.1);
    },
  );

  test.each([-20, -19.9, -10])(
    'without a knee, brings a steady %d dBFS to its curve, at the threshold too',
    (level) => {
      const out = compressed(square(level, 1.5), { kneeDb: 0 });
      const expected = staticCurve(level, { ...settings, kneeDb: 0 });
      expect(Math.abs(toDb(out[out.length - 10]) - expected)).toBeLessThan(0.1);
    },
  );

  test('takes hold and lets go with its time constants, to 5 %', () => {
    const sound = joined(square(-40, 0.5), square(0, 0.5), square(-40, 0.5));
    const out = compressed(sound);
    const reduction = (at: number) => toDb(sound[at] / out[at]);
    const full = reduction(RATE - 10);
    expect(full).toBeCloseTo(15, 1);
    const taken = RATE / 2 + Math.round(0.01 * RATE);
    expect(Math.abs(reduction(taken) / full - (1 - Math.exp(-1)))).toBeLessThan(0.05 * (1 - Math.exp(-1)));
    const left = RATE + Math.round(0.1 * RATE);
    expect(Math.abs(reduction(left) / full - Math.exp(-1))).toBeLessThan(0.05);
  });
});

test.each(Object.entries(PROCESSORS))(
  '%s: its figures are those of its schema, and the docs say what it does',
  (does, kind) => {
    expect(
      ProcessingSchema.safeParse([{ ...kind.initial, ...(does === 'ducking' && { key: 'voice' }) }]).success,
    ).toBe(true);
    expect(Object.keys(kind.initial)).toEqual(expect.arrayContaining(Object.keys(kind.figures)));
    for (const [key, { min, max }] of Object.entries(kind.figures))
      for (const wrong of [min - 0.01, max + 0.01])
        expect(ProcessingSchema.safeParse([{ ...kind.initial, [key]: wrong }]).success).toBe(false);
    expect(readFileSync('docs/balance.md', 'utf8')).toMatch(new RegExp(`^\\| .*\`${does}\`.* \\|`, 'm'));
  },
);

describe('a chain', () => {
  const steps: Processing = Object.values(PROCESSORS).map(({ initial }) =>
    initial.does === 'ducking' ? { ...initial, key: 'voice' } : initial,
  );

  test('does what its steps do, one after the other, and leaves out what is off', () => {
    const sound = noise(4, 9600);
    const done = both(sound);
    new Chain(
      [
        { does: 'trim', gainDb: 6 },
        { does: 'high-pass', hz: 200 },
      ],
      RATE,
    ).process(done, 0, 9600);
    const byHand = sound.map((value) => value * 10 ** (6 / 20));
    new Biquad(coefficientsOf('high-pass', 200, Math.SQRT1_2, 0, RATE)).process(byHand, 0, 9600);
    for (let i = 0; i < 9600; i += 37) expect(done[0][i]).toBeCloseTo(byHand[i], 5);
    const untouched = both(sound);
    const off: Processing = steps.map((step) => ({ ...step, off: true }));
    expect(new Chain(off, RATE).isEmpty).toBe(true);
    new Chain(off, RATE).process(untouched, 0, 9600);
    expect(untouched[0]).toEqual(sound);
  });

  test('gives the same whatever the portions', () => {
    const [whole, parts] = [both(noise(5, 9600)), both(noise(5, 9600))];
    new Chain(steps, RATE).process(whole, 0, 9600);
    const chain = new Chain(steps, RATE);
    for (let at = 0; at < 9600; at += 128) chain.process(parts, at, Math.min(9600, at + 128));
    expect(parts).toEqual(whole);
  });

  test('takes mains hum out of a voice with a high-pass and narrow bands', () => {
    const hum = joined(sine(50, -30, 2));
    const planes = both(hum);
    new Chain(
      [
        { does: 'high-pass', hz: 90 },
        { does: 'band', shape: 'bell', hz: 50, gainDb: -24, q: 8 },
      ],
      RATE,
    ).process(planes, 0, hum.length);
    expect(toDb(rms(planes[0].subarray(RATE)) / rms(hum))).toBeLessThan(-30);
  });

  test('what cannot be is refused with the field', () => {
    expect(ProcessingSchema.safeParse([{ does: 'high-pass', hz: 5 }]).success).toBe(false);
    expect(ProcessingSchema.safeParse([{ does: 'magic' }]).success).toBe(false);
    expect(ProcessingSchema.safeParse(steps).success).toBe(true);
    expect(ProcessingSchema.safeParse(Array.from({ length: 17 }, () => steps[0])).success).toBe(false);
  });
});
