import { join } from 'node:path';
import { beforeAll, expect, test } from '@jest/globals';
import type { Stereo } from '../../core/audio/planes.ts';
import { seededRandom } from '../../core/audio/random.ts';
import { LoudnessMeter } from '../../core/measure/loudness.ts';
import { Chain } from '../../core/processors/chain.ts';
import { NOISE_REDUCTION_FRAMES } from '../../core/processors/noiseReduction.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { readMono } from './readMono.ts';

const RATE = 48_000;
const BLOCK = 2400;

let voice: Float32Array;
beforeAll(async () => {
  await loadNoiseReduction();
  voice = (await readMono(join(process.cwd(), 'assets/voices/narrator.flac'))).subarray(0, 60 * RATE);
});

/** The demo's narrator in a room with a fan: the voice, and the noise that comes to it. */
function noisy(): Float32Array {
  const random = seededRandom(77);
  let low = 0;
  return voice.map((value) => {
    low += 0.2 * (random() - 0.5 - low);
    return value + 0.06 * low;
  });
}

/** The mean power (dB) of a sound over the blocks in which the clean voice is loud, or is silent. */
function powers(sound: Float32Array, late: number): { speechDb: number; pausesDb: number } {
  const sums = { speech: [0, 0], pauses: [0, 0] };
  for (let at = 2 * RATE; at + BLOCK + late < voice.length; at += BLOCK) {
    const clean = power(voice.subarray(at, at + BLOCK));
    const kind = clean > 1e-3 ? sums.speech : clean < 1e-6 ? sums.pauses : null;
    if (!kind) continue;
    kind[0] += power(sound.subarray(at + late, at + late + BLOCK));
    kind[1] += 1;
  }
  const [speechDb, pausesDb] = [sums.speech, sums.pauses].map(([sum, count]) => 10 * Math.log10(sum / count));
  return { speechDb, pausesDb };
}

function power(samples: Float32Array): number {
  return samples.reduce((sum, value) => sum + value * value, 0) / samples.length;
}

function loudnessOf(sound: Float32Array): number {
  const meter = new LoudnessMeter(RATE, 1);
  meter.add([sound, sound], sound.length);
  return meter.result().integratedLufs ?? 0;
}

test('the demo’s voice is 10 dB clearer over its noise, and its speech less than 1 dB quieter', () => {
  const sound = noisy();
  const out: Stereo = [sound.slice(), sound.slice()];
  new Chain([{ does: 'noise reduction', reduceDb: 18 }], RATE).process(out, 0, sound.length);
  const before = powers(sound, 0);
  const after = powers(out[0], NOISE_REDUCTION_FRAMES);
  const clearerDb = after.speechDb - after.pausesDb - (before.speechDb - before.pausesDb);
  expect(before.speechDb - before.pausesDb).toBeLessThan(30);
  expect(clearerDb).toBeGreaterThan(10);
  expect(before.speechDb - after.speechDb).toBeLessThan(1);
  expect(Math.abs(loudnessOf(sound) - loudnessOf(out[0]))).toBeLessThan(1);
});
