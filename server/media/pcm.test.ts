import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { sine } from '../../core/testing/tones.ts';
import { readSound, testFolder, writeSound } from '../testing.ts';
import { isPlainPcm, packPcm, unpackPcm } from './pcm.ts';

const folder = testFolder();
afterAll(folder.remove);

test('the extremes of each format are unpacked by their definition', () => {
  const bytes = (...values: number[]) => Uint8Array.from(values);
  expect(unpackPcm('pcm-s16', bytes(0x00, 0x80, 0xff, 0x7f), 1)[0]).toEqual(
    Float32Array.of(-1, 32767 / 32768),
  );
  expect(unpackPcm('pcm-s24', bytes(0, 0, 0x80, 0xff, 0xff, 0x7f, 0, 0, 0xc0), 1)[0]).toEqual(
    Float32Array.of(-1, 8388607 / 8388608, -0.5),
  );
  expect(unpackPcm('pcm-s32', bytes(0, 0, 0, 0x80), 1)[0]).toEqual(Float32Array.of(-1));
  expect(unpackPcm('pcm-s16', bytes(0, 0x40, 0, 0xc0, 1), 2)).toEqual([
    Float32Array.of(0.5),
    Float32Array.of(-0.5),
  ]);
  expect(isPlainPcm('flac')).toBe(false);
});

test('what is packed is rounded to the nearest value, held at full scale, and channels come in turn', () => {
  const bytes = (codec: string, ...values: number[]) => [
    ...packPcm(codec, [Float32Array.from(values)], 0, values.length),
  ];
  expect(bytes('pcm-s16', -1.5, 1.5, 0.4 / 32768, -0.6 / 32768)).toEqual([
    0, 0x80, 0xff, 0x7f, 0, 0, 0xff, 0xff,
  ]);
  expect(bytes('pcm-s24', -1.5, 1, -0.5, 1 / 8388608)).toEqual([
    0, 0, 0x80, 0xff, 0xff, 0x7f, 0, 0, 0xc0, 1, 0, 0,
  ]);
  expect(bytes('pcm-s32', -2)).toEqual([0, 0, 0, 0x80]);
  const pair = [Float32Array.of(9, 0.5, 0.25), Float32Array.of(9, -0.5, -0.25)];
  for (const codec of ['pcm-s16', 'pcm-s24', 'pcm-f32'])
    expect(unpackPcm(codec, packPcm(codec, pair, 1, 2), 2)).toEqual([
      Float32Array.of(0.5, 0.25),
      Float32Array.of(-0.5, -0.25),
    ]);
});

test.each<['pcm-s16' | 'pcm-s24' | 'pcm-f32', number]>([
  ['pcm-s16', 2 ** -15],
  ['pcm-s24', 2 ** -23],
  ['pcm-f32', 1e-9],
])('a sound written as %s is read back to within a step', async (codec, step) => {
  const tone = sine(997, -6, 0.5);
  await writeSound(join(folder.path, `${codec}.mkv`), tone, { codec });
  const back = await readSound(join(folder.path, `${codec}.mkv`));
  expect(back).toHaveLength(tone.length);
  const apart = tone.reduce((most, value, i) => Math.max(most, Math.abs(value - back[i])), 0);
  expect(apart).toBeLessThanOrEqual(step * 1.01);
});
