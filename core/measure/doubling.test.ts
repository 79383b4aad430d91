import { describe, expect, test } from '@jest/globals';
import { gameSound } from '../demo/game.ts';
import { recordSound } from '../demo/records.ts';
import { humSound } from '../demo/signals.ts';
import { toMono } from '../signal/mono.ts';
import { noise, silence } from '../testing/tones.ts';
import { DoublingMeter } from './doubling.ts';
import { withFft } from './fft.ts';

const RATE = 48_000;
const game = toMono([gameSound().left, gameSound().right]).subarray(0, 50 * RATE);
const tuneOf = (seed: number) => {
  const { left, right } = recordSound(seed, 0.6, 40);
  return toMono([left, right]);
};
const tune = tuneOf(41);

async function doublingOf(sound: Float32Array) {
  return withFft((makeFft) => {
    const meter = new DoublingMeter(makeFft);
    for (let from = 0; from < sound.length; from += 19_201) meter.add(sound.subarray(from, from + 19_201));
    return meter.result();
  });
}

function twice(sound: Float32Array, delayMs: number, levelDb: number, sign = 1): Float32Array {
  const late = Math.round((delayMs / 1000) * RATE);
  return sound.map((value, i) => value + sign * 10 ** (levelDb / 20) * (sound[i - late] ?? 0));
}

describe('a track that carries its own sound twice', () => {
  test.each([
    [5, -6],
    [7.5, -3],
    [24, -12],
    [24, -22],
    [120, -8],
    [250, -12],
  ])('%d ms later, %d dB', async (delayMs, levelDb) => {
    for (const sound of [game, tune]) {
      const found = await doublingOf(twice(sound, delayMs, levelDb));
      if (sound !== game && levelDb < -20) continue;
      expect(Math.abs((found?.delayMs ?? 0) - delayMs)).toBeLessThan(0.1);
      expect(Math.abs((found?.levelDb ?? 99) - levelDb)).toBeLessThan(1.5);
    }
  });

  test('turned over', async () => {
    const found = await doublingOf(twice(game, 24, -6, -1));
    expect(Math.abs((found?.delayMs ?? 0) - 24)).toBeLessThan(0.1);
  });
});

describe('a track that carries everything once', () => {
  test.each<[string, () => Float32Array]>([
    ['a game', () => game],
    ['a tune', () => tune],
    ['another tune', () => tuneOf(43)],
    ['noise', () => noise(3, 30 * RATE)],
    ['hum and noise', () => humSound(18).map((value, i) => value + 0.001 * game[i])],
    ['nothing', () => silence(30)],
    ['too little', () => game.subarray(0, 10 * RATE)],
  ])('%s', async (_name, make) => {
    expect(await doublingOf(make())).toBeNull();
  });
});
