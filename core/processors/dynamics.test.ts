import { beforeAll, describe, expect, test } from '@jest/globals';
import { toDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { TruePeakMeter } from '../measure/truePeak.ts';
import { loadNoiseReduction } from '../signal/noiseReduction.ts';
import { joined, noise, rms, silence, sine } from '../testing/tones.ts';
import { Chain } from './chain.ts';
import { latencyFrames } from './latency.ts';
import type { Processing } from './processing.ts';

const RATE = 48_000;
beforeAll(() => loadNoiseReduction());

const both = (sound: Float32Array): Stereo => [sound.slice(), sound.slice()];
/** What comes out of a processing, in blocks as the engine has them. */
function through(processing: Processing, sound: Stereo, keys: Record<string, Stereo> = {}): Stereo {
  const chain = new Chain(processing, RATE, Object.keys(keys));
  const planes: Stereo = [sound[0].slice(), sound[1].slice()];
  for (let at = 0; at < planes[0].length; at += 128)
    chain.process(planes, at, Math.min(planes[0].length, at + 128), Object.values(keys));
  return planes;
}
/** The largest difference between two sounds. */
const apart = (one: Float32Array, other: Float32Array) =>
  one.reduce((most, value, i) => Math.max(most, Math.abs(value - other[i])), 0);
/** Noise as a room has it: less and less towards the top. */
function roomNoise(seed: number, seconds: number): Float32Array {
  let low = 0;
  return noise(seed, seconds * RATE).map((value) => {
    low += 0.1 * (0.02 * value - low);
    return low;
  });
}
const truePeakDb = (...sides: Float32Array[]) =>
  Math.max(
    ...sides.map((side) => {
      const meter = new TruePeakMeter();
      meter.add(side);
      return meter.peakDbtp() ?? Number.NEGATIVE_INFINITY;
    }),
  );

describe('the limiter', () => {
  const limiter: Processing = [{ does: 'limiter', ceilingDbtp: -1, releaseMs: 50 }];
  const steps = joined(...[0.1, 4, 0.3, 9, 0.02, 2].map((level) => noise(7, 2400).map((v) => v * level)));
  const clicks = silence(1).map((_, i) => (i % 4801 === 0 ? 8 : i % 977 === 0 ? -3 : 0));
  const square = Float32Array.from({ length: RATE / 2 }, (_, i) => (i % 96 < 48 ? 3 : -3));

  test.each([
    ['a tone between the samples', sine(12_000, 9, 0.5, RATE, 45)],
    ['a tone near the top of the band', sine(19_900, 12, 0.5, RATE, 30)],
    ['loud noise', noise(3, RATE).map((value) => value * 12)],
    ['noise that jumps', steps],
    ['clicks', clicks],
    ['a square wave', square],
    ['a tone that begins at once', joined(silence(0.1), sine(997, 20, 0.2))],
  ])('never lets the true peak over its ceiling: %s', (_, sound) => {
    expect(truePeakDb(sound)).toBeGreaterThan(0);
    expect(truePeakDb(...through(limiter, both(sound)))).toBeLessThanOrEqual(-1);
  });

  test('leaves what is under its ceiling as it is, late by what it says', () => {
    const quiet = noise(5, 9600).map((value) => value * 0.5);
    const late = latencyFrames(limiter, RATE);
    const [out] = through(limiter, both(quiet));
    expect(apart(quiet.subarray(0, 9600 - late), out.subarray(late))).toBeLessThan(1e-6);
    expect(late / RATE).toBeLessThan(0.003);
  });

  test('lets go with its time constant, to 5 %, and turns both sides down together', () => {
    const sound = joined(sine(1000, 12, 0.2), sine(1000, -12, 0.6));
    const beside = sine(1000, -30, 0.8);
    const [out, other] = through(limiter, [sound, beside]);
    const late = latencyFrames(limiter, RATE);
    const gainAt = (ms: number) => {
      const from = Math.round((ms * RATE) / 1000);
      const gain = rms(out.subarray(from + late, from + late + 48)) / rms(sound.subarray(from, from + 48));
      const gainBeside =
        rms(other.subarray(from + late, from + late + 48)) / rms(beside.subarray(from, from + 48));
      expect(gainBeside).toBeCloseTo(gain, 2);
      return gain;
    };
    const [before, first] = [gainAt(230), gainAt(280)];
    const left = (1 - first) / (1 - before);
    expect(Math.abs(left - Math.exp(-1)) / Math.exp(-1)).toBeLessThan(0.05);
    expect(toDb(gainAt(100))).toBeCloseTo(-13.1, 0);
  });
});

describe('ducking', () => {
  const ducking: Processing = [
    { does: 'ducking', key: 'voice', opensDb: -40, depthDb: 12, attackMs: 30, holdMs: 200, releaseMs: 100 },
  ];
  const bed = sine(400, -20, 2);
  const voice = joined(silence(0.5), sine(300, -20, 0.5), silence(1));
  const [out] = through(ducking, both(bed), { voice: both(voice) });
  /** The gain over two periods, in dB. */
  const gainAt = (ms: number) => {
    const from = Math.round((ms * RATE) / 1000);
    return toDb(rms(out.subarray(from, from + 240)) / rms(bed.subarray(from, from + 240)));
  };

  test('turns a sound down by its depth while the key sounds, and not else', () => {
    expect(gainAt(400)).toBeCloseTo(0, 3);
    expect(gainAt(950)).toBeCloseTo(-12, 1);
    expect(gainAt(1950)).toBeCloseTo(0, 1);
  });

  test('goes down and up with its time constants, to 5 %, and holds in between', () => {
    const opened = 500 + firstMs((ms) => gainAt(500 + ms) < -0.05);
    const attackMs = firstMs((ms) => gainAt(opened + ms) <= -12 * (1 - Math.exp(-1)));
    expect(Math.abs(attackMs - 30)).toBeLessThan(3);
    const letGo = 1000 + firstMs((ms) => gainAt(1000 + ms) > -11.9);
    expect(letGo).toBeGreaterThan(1200);
    const [from, until] = [gainAt(letGo + 20), gainAt(letGo + 120)];
    expect(Math.abs(until / from - Math.exp(-1)) / Math.exp(-1)).toBeLessThan(0.05);
  });

  test('leaves a sound alone whose key is not there', () => {
    expect(apart(through(ducking, both(bed))[0], bed)).toBe(0);
  });

  function firstMs(isIt: (ms: number) => boolean): number {
    for (let ms = 0; ms < 900; ms += 0.25) if (isIt(ms)) return ms;
    throw new Error('it never was');
  }
});

describe('noise reduction', () => {
  const reducing = (reduceDb: number): Processing => [{ does: 'noise reduction', reduceDb }];
  const hiss = roomNoise(9, 3);

  test('makes hiss quieter by no more than it was asked for, once it has found it', () => {
    for (const reduceDb of [6, 12]) {
      const [out] = through(reducing(reduceDb), both(hiss));
      const byDb = toDb(rms(out.subarray(2 * RATE)) / rms(hiss.subarray(2 * RATE)));
      expect(byDb).toBeGreaterThan(-reduceDb - 0.5);
      expect(byDb).toBeLessThan(-reduceDb + 2);
    }
  });

  test('is late by what it says', () => {
    const click = silence(1).map((_, i) => (i === RATE / 2 ? 0.9 : 0));
    const [out] = through(reducing(3), both(click));
    const loudest = out.reduce((top, value, i) => (Math.abs(value) > Math.abs(out[top]) ? i : top), 0);
    expect(Math.abs(loudest - RATE / 2 - latencyFrames(reducing(3), RATE))).toBeLessThanOrEqual(1);
  });

  test('treats both sides alike when they are, and each for itself from where they part', () => {
    const other = joined(hiss.subarray(0, RATE), noise(10, 2 * RATE));
    const [left, right] = through(reducing(12), [hiss, other]);
    expect(apart(right.subarray(0, RATE), left)).toBe(0);
    expect(apart(right.subarray(RATE + 2000), left.subarray(RATE + 2000))).toBeGreaterThan(0.001);
    expect(apart(through(reducing(12), both(hiss))[0], left)).toBe(0);
  });

  test('comes to rest after silence', () => {
    const chain = new Chain(reducing(12), RATE);
    chain.process(both(hiss.subarray(0, 4800)), 0, 4800);
    expect(chain.isAtRest).toBe(false);
    chain.process(both(silence(1.1)), 0, Math.floor(1.1 * RATE));
    expect(chain.isAtRest).toBe(true);
  });
});

test('polarity, mono fold and delay do what they say', () => {
  const [a, b] = [noise(1, 4800), noise(2, 4800)];
  expect(through([{ does: 'polarity' }], [a, b])[1]).toEqual(b.map((value) => -value));
  const folded = through([{ does: 'mono fold' }], [a, b]);
  expect(folded[0]).toEqual(a.map((value, i) => (value + b[i]) / 2));
  expect(folded[1]).toEqual(folded[0]);
  const delay: Processing = [{ does: 'delay', delayMs: 12.5 }];
  expect(latencyFrames(delay, RATE)).toBe(600);
  const [late] = through(delay, [a, b]);
  expect(late.subarray(600)).toEqual(a.subarray(0, 4200));
  expect(late.subarray(0, 600).every((value) => value === 0)).toBe(true);
});
