import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { gameSound } from '../../demo/game.ts';
import { recordSound } from '../../demo/records.ts';
import { toMono } from '../../signal/mono.ts';
import { noise, rms } from '../../testing/tones.ts';
import { fftMemory, loadFft, type MakeFft } from '../fft.ts';
import { BANDS, FingerprintMeter, PRINT_RATE, packPrint, unpackPrint } from './fingerprint.ts';
import { lookUp } from './lookUp.ts';
import { RATE } from './windows.ts';

let makeFft: MakeFft;
let openBefore = 0;
beforeAll(async () => {
  makeFft = await loadFft();
  openBefore = (await fftMemory()).open;
});
afterAll(async () => expect((await fftMemory()).open - openBefore).toBe(0));

/** The fingerprint of a sound, fed in portions of some length. */
function printOf(samples: Float32Array, portion = samples.length) {
  const made: { close(): void }[] = [];
  const meter = new FingerprintMeter((size) => {
    const fft = makeFft(size);
    made.push(fft);
    return fft;
  });
  for (let from = 0; from < samples.length; from += portion)
    meter.add(samples.subarray(from, from + portion));
  for (const fft of made) fft.close();
  return meter.result();
}

const monoOf = ({ left, right }: { left: Float32Array; right: Float32Array }) => toMono([left, right]);
const GAME_S = 90;
const tune = monoOf(recordSound(300, 0.7, 40));
const game = monoOf(gameSound()).subarray(0, GAME_S * RATE);

/** The game with the tune under it, so many dB below, from a moment on (s), as fast as given. */
function under(belowDb: number, beginsS: number, pace = 1): Float32Array {
  const gain = (10 ** (belowDb / 20) * rms(game)) / rms(tune);
  const mixed = game.slice();
  for (let i = Math.max(0, Math.round(beginsS * RATE)); i < mixed.length; i++) {
    const at = (i - beginsS * RATE) * pace;
    const whole = Math.floor(at);
    if (whole < 0) continue;
    if (whole + 1 >= tune.length) break;
    mixed[i] += gain * (tune[whole] + (at - whole) * (tune[whole + 1] - tune[whole]));
  }
  return mixed;
}

describe('a fingerprint', () => {
  test('does not depend on the portions, nor on the level', () => {
    const whole = printOf(tune);
    expect(whole.values).toHaveLength(whole.frames * BANDS);
    expect(Math.abs(whole.frames / PRINT_RATE - tune.length / RATE)).toBeLessThan(0.1);
    expect(printOf(tune, 1777).values).toEqual(whole.values);
    const quieter = printOf(tune.map((value) => value / 2)).values;
    const apart = quieter.reduce((sum, value, i) => sum + Math.abs(value - whole.values[i]), 0);
    expect(apart / quieter.length).toBeLessThan(0.15);
  });

  test('is the same after it was packed and unpacked; what is something else is none', () => {
    const print = printOf(tune);
    expect(unpackPrint(packPrint(print))).toEqual(print);
    expect(unpackPrint(new Uint8Array())).toBeNull();
    expect(unpackPrint(Uint8Array.from({ length: 100 }, () => 77))).toBeNull();
  });

  test('says how long it sounds', () => {
    expect(printOf(new Float32Array(RATE)).soundingS).toBe(0);
    expect(printOf(noise(1, RATE)).soundingS).toBeCloseTo(1, 0);
    expect(printOf(tune).soundingS).toBe(25.5);
    expect(printOf(new Float32Array(100)).frames).toBe(0);
  });
});

describe('a sound is looked up', () => {
  test.each([
    ['in the middle', -20, 23.4, 1],
    ['before the track begins', -20, -9.3, 1],
    ['towards its end', -20, 71, 1],
    ['far below the rest', -30, 23.4, 1],
    ['a little too fast', -20, 23.4, 1 + 1e-4],
  ])('%s', (_name, belowDb, beginsS, pace) => {
    const [places] = lookUp(makeFft, printOf(under(belowDb, beginsS, pace)), [printOf(tune)]);
    expect(Math.abs(places[0].beginsS - beginsS)).toBeLessThan(0.25);
    expect(places[0].height).toBeGreaterThan(6);
  });

  test('at each of the moments at which it is played', () => {
    const later = under(-15, 47);
    const twice = under(-15, 2);
    for (let i = 0; i < twice.length; i++) twice[i] += later[i] - game[i];
    const [places] = lookUp(makeFft, printOf(twice), [printOf(tune)]);
    for (const beginsS of [2, 47])
      expect(places.some((place) => Math.abs(place.beginsS - beginsS) < 0.25)).toBe(true);
  });

  test('and what is not there does not stand out, nor does silence', () => {
    const found = lookUp(makeFft, printOf(game), [
      printOf(noise(5, 30 * RATE)),
      printOf(new Float32Array(RATE)),
    ]);
    expect(found.flat().filter(({ height }) => height > 6)).toEqual([]);
  });
});
