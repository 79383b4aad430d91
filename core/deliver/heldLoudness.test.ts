import { describe, expect, test } from '@jest/globals';
import { fromDb } from '../audio/decibel.ts';
import { newStereo, SAMPLE_RATE, type Stereo } from '../audio/planes.ts';
import { LoudnessMeter } from '../measure/loudness.ts';
import { SoundMeter } from '../measure/soundMeter.ts';
import { Limiter } from '../signal/limiter.ts';
import { noise } from '../testing/tones.ts';
import { HeldLoudness } from './heldLoudness.ts';

const SECONDS = 20;
const FRAMES = SECONDS * SAMPLE_RATE;
const CEILING_DBTP = -1;
const RELEASE_MS = 120;

/** Sound of which each frame is as a function says, by how loud noise is there. */
function shaped(levelAt: (second: number) => number): Stereo {
  const sides = newStereo(FRAMES);
  for (const [side, plane] of sides.entries()) {
    const source = noise(side + 1, FRAMES);
    let smooth = 0;
    for (let i = 0; i < FRAMES; i++) {
      smooth += 0.2 * (source[i] - smooth);
      plane[i] = levelAt(i / SAMPLE_RATE) * smooth;
    }
  }
  return sides;
}

/** Speech-like: syllables of all levels, and pauses. */
const SPEECH = shaped((t) =>
  t % 4 > 3 ? 0.001 : Math.abs(Math.sin(9 * t)) * (0.3 + 0.7 * Math.sin(0.9 * t) ** 2),
);
/** Bursts that decay, over something quiet. */
const BEATS = shaped((t) => 0.1 + 0.9 * Math.exp(-(t % 0.4) * 12));

function heldOf(sound: Stereo): HeldLoudness {
  const held = new HeldLoudness();
  // In portions that end in the middle of a millisecond.
  for (let from = 0; from < FRAMES; from += 7001) {
    const frames = Math.min(7001, FRAMES - from);
    held.add([sound[0].subarray(from, from + frames), sound[1].subarray(from, from + frames)], frames);
  }
  return held;
}

function limitedLufs(sound: Stereo, gainDb: number): number {
  const louder = sound.map((plane) => plane.map((value) => value * fromDb(gainDb)));
  const planes: Stereo = [louder[0], louder[1]];
  new Limiter({ ceilingDbtp: CEILING_DBTP, releaseMs: RELEASE_MS }, SAMPLE_RATE).process(planes, 0, FRAMES);
  const meter = new LoudnessMeter(SAMPLE_RATE, 2);
  meter.add(planes, FRAMES);
  return meter.result().integratedLufs ?? Number.NaN;
}

describe.each([
  ['speech', SPEECH],
  ['beats', BEATS],
])('%s', (_, sound) => {
  const held = heldOf(sound);
  const meter = new SoundMeter(SAMPLE_RATE, 2);
  meter.add(sound, FRAMES);
  const plain = meter.result();
  const peakDbtp = plain.truePeakDbtp ?? Number.NaN;

  test('as it came', () => {
    expect(held.lufs()).toBeCloseTo(plain.integratedLufs ?? Number.NaN, 2);
    expect(Math.abs((held.peakDbtp() ?? Number.NaN) - peakDbtp)).toBeLessThan(0.05);
  });

  test.each([
    [-3, 0.001],
    [1, 0.03],
    [3, 0.08],
    [6, 0.15],
  ])('with its peaks held down by %s dB', (downDb, off) => {
    const gainDb = CEILING_DBTP - peakDbtp + downDb;
    const lufs = held.lufsAt(gainDb, CEILING_DBTP, RELEASE_MS) ?? Number.NaN;
    expect(Math.abs(lufs - limitedLufs(sound, gainDb))).toBeLessThan(off);
  });

  test('it never becomes quieter with more gain', () => {
    const levels = Array.from(
      { length: 40 },
      (_, step) => held.lufsAt(step / 2, CEILING_DBTP, RELEASE_MS) ?? 0,
    );
    for (let at = 1; at < levels.length; at++) expect(levels[at]).toBeGreaterThanOrEqual(levels[at - 1]);
  });
});

test('where it is loudest', () => {
  const held = heldOf(shaped((t) => (t >= 12 && t < 15 ? 1 : 0.2)));
  expect(held.loudestFrom(3)).toBeCloseTo(12, 0);
  expect(held.loudestFrom(60)).toBe(0);
});

test('silence has no loudness', () => {
  const held = new HeldLoudness();
  held.add(newStereo(SAMPLE_RATE), SAMPLE_RATE);
  expect(held.lufs()).toBeNull();
  expect(held.peakDbtp()).toBeNull();
  expect(held.lufsAt(20, CEILING_DBTP, RELEASE_MS)).toBeNull();
});
