import { beforeAll, describe, expect, test } from '@jest/globals';
import { noise } from '../testing/tones.ts';
import { EchoMeter } from './echo.ts';
import { loadFft } from './fft.ts';

const FRAMES = 20 * 48_000;
let makeFft: Awaited<ReturnType<typeof loadFft>>;
beforeAll(async () => {
  makeFft = await loadFft();
});

/** Bursts of noise with pauses between them, much of it low, as a voice is. */
function voice(seed: number): Float32Array {
  const raw = noise(seed, FRAMES);
  let low = 0;
  return raw.map((value, at) => {
    low += 0.15 * (value - low);
    const isSpeaking = (at / 48_000) % 3 < 2;
    return isSpeaking ? low * (0.5 + 0.5 * Math.sin(at / 3000)) : 0;
  });
}

const own = voice(1);
const others = voice(2).map((value, at) => 2 * value + 0.2 * Math.sin(at / 20));

function heard(copies: [delayMs: number, gain: number][], withOthers = 1): Float32Array {
  return others.map((value, at) =>
    copies.reduce(
      (sum, [delayMs, gain]) => sum + gain * (own[at - Math.round(delayMs * 48)] ?? 0),
      withOthers * value,
    ),
  );
}

function copiesIn(sound: Float32Array, portion = 5000) {
  const meter = new EchoMeter(makeFft);
  for (let at = 0; at < FRAMES; at += portion)
    meter.add(
      own.subarray(at, at + portion),
      sound.subarray(at, at + portion),
      Math.min(portion, FRAMES - at),
    );
  const copies = meter.copies();
  meter.close();
  return copies;
}

describe('copies of the own voice in what is heard', () => {
  test.each([
    [0, 0.5],
    [12.5, 1],
    [48, 0.2],
    [310, -0.7],
  ])('one that is %d ms late, times %d, under others that are louder', (delayMs, gain) => {
    const [copy, ...more] = copiesIn(heard([[delayMs, gain]]));
    expect(more).toEqual([]);
    expect(Math.abs(copy.delayMs - delayMs)).toBeLessThan(0.1);
    expect(Math.abs(copy.levelDb - 20 * Math.log10(Math.abs(gain)))).toBeLessThan(0.5);
  });

  test('two of them are told apart, the louder first', () => {
    const found = copiesIn(
      heard([
        [30, 0.4],
        [0, 0.8],
      ]),
    );
    expect(found).toHaveLength(2);
    expect(found.map(({ delayMs }) => Math.round(delayMs))).toEqual([0, 30]);
    expect(Math.abs(found[1].levelDb - 20 * Math.log10(0.4))).toBeLessThan(1);
  });

  test('there are none where only others are heard, or nothing', () => {
    expect(copiesIn(heard([]))).toEqual([]);
    expect(copiesIn(heard([], 0))).toEqual([]);
  });

  test('are the same however the sound is handed over', () => {
    const sound = heard([[20, 0.5]]);
    expect(copiesIn(sound, 128 * 150)).toEqual(copiesIn(sound, FRAMES));
  });
});
