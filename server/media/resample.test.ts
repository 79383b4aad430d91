import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { rms, sine } from '../../core/testing/tones.ts';
import { readSound, testFolder, VOICES, writeSound } from '../testing.ts';
import { Resampler } from './resample.ts';
import { Stem } from './stem.ts';

const folder = testFolder();
afterAll(folder.remove);

test.each([8_000, 22_050, 24_000, 44_100, 96_000, 192_000])(
  'a tone at %i Hz becomes the same tone at 48 kHz, in place and level',
  async (rate) => {
    const input = sine(997, -6, 1, rate);
    const resampler = new Resampler(1, rate, 48_000);
    const parts: Float32Array[] = [];
    for (let at = 0, size = 100; at < input.length; at += size, size = 1 + ((size * 7) % 4001)) {
      parts.push(resampler.push([input.slice(at, at + size)])[0]);
    }
    parts.push(resampler.flush()[0]);
    resampler.close();
    const output = Float32Array.from(parts.flatMap((part) => Array.from(part)));
    expect(output).toHaveLength(48_000);
    const wanted = sine(997, -6, 1);
    const apart = output.map((value, i) => value - wanted[i]).subarray(4800, 43_200);
    expect(20 * Math.log10(rms(apart) / rms(wanted))).toBeLessThan(-90);
  },
);

test('a tone above half the new rate is gone', async () => {
  const resampler = new Resampler(1, 192_000, 48_000);
  const [output] = resampler.push([sine(30_000, -6, 1, 192_000)]);
  resampler.close();
  expect(20 * Math.log10(rms(output.subarray(2000)))).toBeLessThan(-90);
});

test('a stem gives the same samples whatever the portions, and silence after its end', async () => {
  const path = join(VOICES, 'wick.flac');
  const whole = await readSound(path, 0, 3);
  const stem = await Stem.open(path);
  const planes = [new Float32Array(5000), new Float32Array(5000)] as const;
  let at = 0;
  for (const size of [1, 127, 4999, 128, 5000, 3000]) {
    expect(await stem.read(planes, size)).toBe(size);
    expect(planes[0].slice(0, size)).toEqual(whole.slice(at, at + size));
    at += size;
  }
  await stem.close();

  await writeSound(join(folder.path, 'short.mkv'), sine(440, -6, 0.01));
  const short = await Stem.open(join(folder.path, 'short.mkv'));
  planes[0].fill(9);
  expect(await short.read(planes, 1000)).toBe(480);
  expect(planes[0][479]).not.toBe(0);
  expect(Array.from(planes[0].subarray(480, 1000)).every((value) => value === 0)).toBe(true);
  expect(await short.read(planes, 1000)).toBe(0);
  expect(short.ended).toBe(true);
  await short.close();
});
