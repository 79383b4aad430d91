import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { noise, sine } from '../testing/tones.ts';
import { LiveMeter } from './liveMeter.ts';
import { LoudnessMeter } from './loudness.ts';

const RATE = 48_000;
const BLOCK = 128;

/** Plays a sound through a meter, block by block, as the audio thread does. */
function play(meter: LiveMeter, [left, right]: Stereo): void {
  for (let at = 0; at + BLOCK <= left.length; at += BLOCK)
    meter.add([left.subarray(at, at + BLOCK), right.subarray(at, at + BLOCK)], BLOCK);
}

describe('a meter for what is playing', () => {
  test('reads a tone of −23 dBFS on both sides as −23 LUFS, momentary and short-term', () => {
    const meter = new LiveMeter(RATE);
    const tone = sine(1000, -23, 5);
    play(meter, [tone, tone]);
    expect(Math.abs(meter.momentaryLufs + 23)).toBeLessThan(0.1);
    expect(Math.abs(meter.shortTermLufs + 23)).toBeLessThan(0.1);
  });

  test('agrees with the meter that measures files', () => {
    const sound = noise(5, 6 * RATE).map((value, i) => value * 0.2 * (1 + Math.sin(i / 30_000)));
    const meter = new LiveMeter(RATE);
    const files = new LoudnessMeter(RATE, 2);
    const frames = 6 * RATE - ((6 * RATE) % 4800);
    play(meter, [sound, sound]);
    files.add([sound, sound], frames);
    expect(meter.momentaryLufs).toBeCloseTo(files.momentary() ?? Number.NaN, 2);
    const course = files.shortTermCourse();
    expect(meter.shortTermLufs).toBeCloseTo(course[course.length - 1], 2);
  });

  test('says nothing of silence, gives the highest sample once, and forgets when it is asked to', () => {
    const meter = new LiveMeter(RATE);
    play(meter, [new Float32Array(RATE), new Float32Array(RATE)]);
    expect(meter.momentaryLufs).toBe(Number.NEGATIVE_INFINITY);
    const tone = sine(1000, -6, 1);
    play(meter, [tone, tone.map((value) => value / 2)]);
    expect(meter.takePeak()).toBeCloseTo(10 ** (-6 / 20), 3);
    expect(meter.takePeak()).toBe(0);
    meter.reset();
    expect([meter.momentaryLufs, meter.shortTermLufs]).toEqual([
      Number.NEGATIVE_INFINITY,
      Number.NEGATIVE_INFINITY,
    ]);
  });
});
