import { expect, test } from '@jest/globals';
import { toDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { joined, noise, rms, silence, sine } from '../testing/tones.ts';
import { Chain } from './chain.ts';
import type { Processor } from './processing.ts';

const RATE = 48_000;
/** A sine of 997 Hz on both sides reads, in LUFS, its peak in dBFS (ITU-R BS.1770-5, with EBU Tech 3341). */
const tone = (lufs: number, seconds: number) => sine(997, lufs, seconds);
const step: Processor = { does: 'leveller', lowLufs: -24, highLufs: -18, mostDb: 12, dbPerS: 3 };

/** One side of a sound that is alike on both, through a leveller, in portions of so many frames. */
function levelled(sound: Float32Array, portion = 128, settings: Processor = step): Float32Array {
  const chain = new Chain([settings], RATE);
  const planes: Stereo = [sound.slice(), sound.slice()];
  for (let at = 0; at < sound.length; at += portion)
    chain.process(planes, at, Math.min(sound.length, at + portion));
  return planes[0];
}

/** The level of a sine over the last second before a time (s), as its peak in dBFS. */
const levelAt = (sound: Float32Array, seconds: number) =>
  toDb(rms(sound.subarray((seconds - 1) * RATE, seconds * RATE)) * Math.SQRT2);

test.each([
  ['too quiet', -34, -24],
  ['too loud', -8, -18],
  ['in the range', -21, -21],
  ['quieter than it may make up for', -40, -28],
])('a sound that is %s comes to the range, by no more than it may', (_name, before, after) => {
  expect(levelAt(levelled(tone(before, 12)), 12)).toBeCloseTo(after, 1);
});

test('it moves no faster than it says, and as fast', () => {
  const out = levelled(tone(-36, 4));
  const late = toDb(rms(out.subarray(2 * RATE - 480, 2 * RATE + 480)) * Math.SQRT2);
  expect(late).toBeCloseTo(-36 + 6, 1);
});

test('pauses leave it as it is', () => {
  const speech = tone(-34, 8);
  const out = levelled(joined(speech, silence(20), speech));
  const again = toDb(rms(out.subarray(28 * RATE + 480, 28 * RATE + 4800)) * Math.SQRT2);
  expect(again).toBeCloseTo(-24, 0);
  const hum = levelled(joined(speech, tone(-60, 10)));
  expect(levelAt(hum, 18)).toBeCloseTo(-50, 0);
});

test('does the same in blocks of any size, and leaves silence silent', () => {
  const sound = joined(
    silence(0.37),
    noise(5, RATE).map((value) => value * 0.05),
    silence(1),
    tone(-6, 1),
  );
  const expected = levelled(sound, 128);
  for (const portion of [1, 441, 4096]) expect(levelled(sound, portion)).toEqual(expected);
  expect(rms(levelled(silence(1)))).toBe(0);
});

test('a range that is given upside down is the same range', () => {
  const upside: Processor = { ...step, lowLufs: -18, highLufs: -24 };
  expect(levelled(tone(-34, 3), 128, upside)).toEqual(levelled(tone(-34, 3)));
});
