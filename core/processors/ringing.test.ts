import { describe, expect, test } from '@jest/globals';
import { toDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { noise, silence } from '../testing/tones.ts';
import { Chain } from './chain.ts';
import { type Processing, ProcessingSchema, type Processor } from './processing.ts';

const RATE = 48_000;

/** What comes out of a processing in portions of so many frames. */
function through(processing: Processing, sound: Stereo, portion: number): Stereo {
  const chain = new Chain(processing, RATE);
  const planes: Stereo = [sound[0].slice(), sound[1].slice()];
  for (let at = 0; at < planes[0].length; at += portion)
    chain.process(planes, at, Math.min(planes[0].length, at + portion));
  return planes;
}

/** What rings on after a click (left), the click itself taken away. */
function ringing(step: Processor, seconds: number): Float32Array {
  const click = silence(seconds);
  click[0] = 1;
  const [left] = through([step], [click, click.slice()], 128);
  left[0] -= 1;
  return left;
}

describe('the echo', () => {
  const step: Processor = { does: 'echo', apartMs: 125, firstDb: -6, fallDb: 4 };

  test('repeats to the frame, each time quieter by what it says, and nothing else', () => {
    const out = ringing(step, 3);
    const heard = [...out].flatMap((value, frame) => (Math.abs(value) > 1e-4 ? [frame] : []));
    expect(heard.slice(0, 6)).toEqual([6000, 12_000, 18_000, 24_000, 30_000, 36_000]);
    heard.slice(0, 6).forEach((frame, i) => {
      expect(Math.abs(toDb(out[frame]) - (-6 - 4 * i))).toBeLessThan(0.01);
    });
    expect(heard.every((frame) => frame % 6000 === 0)).toBe(true);
  });
});

describe('the reverb', () => {
  test.each([
    [0.4, 0],
    [1.2, 0],
    [3, 0],
  ])('falls by 60 dB in %d s', (decayS, dampPercent) => {
    const out = ringing({ does: 'reverb', decayS, wetDb: 0, dampPercent }, 1.4 * decayS);
    // Schroeder's backward integral of the energy; the slope between −5 and −35 dB, as ISO 3382 measures it.
    const left = new Float64Array(out.length);
    let sum = 0;
    for (let i = out.length - 1; i >= 0; i--) {
      sum += out[i] * out[i];
      left[i] = sum;
    }
    const frameAt = (db: number) => left.findIndex((energy) => 10 * Math.log10(energy / left[0]) <= db);
    const measuredS = (2 * (frameAt(-35) - frameAt(-5))) / RATE;
    expect(Math.abs(measuredS / decayS - 1)).toBeLessThan(0.1);
  });

  test('is as loud as it says, and the top fades sooner where it is damped', () => {
    const energyOf = (sound: Float32Array) => sound.reduce((sum, value) => sum + value * value, 0);
    const loud = energyOf(ringing({ does: 'reverb', decayS: 1, wetDb: 0, dampPercent: 0 }, 2));
    const quiet = energyOf(ringing({ does: 'reverb', decayS: 1, wetDb: -20, dampPercent: 0 }, 2));
    expect(10 * Math.log10(quiet / loud)).toBeCloseTo(-20, 2);
    const steepness = (sound: Float32Array) => {
      const late = sound.subarray(RATE / 4);
      const steps = late.map((value, i) => (i === 0 ? 0 : value - late[i - 1]));
      return energyOf(steps) / energyOf(late);
    };
    const plain = steepness(ringing({ does: 'reverb', decayS: 1, wetDb: 0, dampPercent: 0 }, 1));
    const damped = steepness(ringing({ does: 'reverb', decayS: 1, wetDb: 0, dampPercent: 60 }, 1));
    expect(damped).toBeLessThan(plain / 2);
  });

  test('a reverb of a minute is refused in words', () => {
    const refused = ProcessingSchema.safeParse([{ does: 'reverb', decayS: 60, wetDb: 0, dampPercent: 0 }]);
    expect(refused.error?.issues[0].message).toBe('must be 10 s or less');
  });
});

test.each<Processor>([
  { does: 'echo', apartMs: 20, firstDb: -3, fallDb: 12 },
  { does: 'reverb', decayS: 0.3, wetDb: -6, dampPercent: 20 },
])('$does: comes out alike whatever the portions, and is silent once it has rung out', (step) => {
  const sound: Stereo = [noise(1, RATE / 4), noise(2, RATE / 4)];
  const [one, other] = [128, 1000].map((portion) => through([step], sound, portion));
  for (const side of [0, 1]) expect(one[side]).toEqual(other[side]);

  const chain = new Chain([step], RATE);
  expect(chain.isAtRest).toBe(true);
  chain.process([sound[0].slice(), sound[1].slice()], 0, RATE / 4);
  expect(chain.isAtRest).toBe(false);
  let blocks = 0;
  for (; !chain.isAtRest && blocks < 2000; blocks++) {
    const block: Stereo = [new Float32Array(128), new Float32Array(128)];
    chain.process(block, 0, 128);
  }
  expect(chain.isAtRest).toBe(true);
  expect(blocks * 128).toBeLessThan(2 * RATE);
  const after: Stereo = [new Float32Array(4800), new Float32Array(4800)];
  chain.process(after, 0, 4800);
  expect(after.every((side) => side.every((value) => value === 0))).toBe(true);
});
