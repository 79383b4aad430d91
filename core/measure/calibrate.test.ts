import { beforeAll, describe, expect, test } from '@jest/globals';
import { joined, noise, rms, silence, sine } from '../testing/tones.ts';
import { type Calibration, calibrate } from './calibrate.ts';
import { loadFft, type RealFft } from './fft.ts';

let makeFft: (size: number) => RealFft;
beforeAll(async () => {
  makeFft = await loadFft();
});

const scaled = (sound: Float32Array, rmsDb: number) => {
  const gain = 10 ** (rmsDb / 20) / rms(sound);
  return sound.map((value) => value * gain);
};
const sum = (...sounds: Float32Array[]) =>
  sounds[0].map((_, i) => sounds.reduce((all, sound) => all + (sound[i] ?? 0), 0));

/** Words of 0.4 s with pauses between them, over noise. */
function spoken(speechDb: number, floorDb: number, words = 12): Float32Array {
  const word = scaled(noise(1, 19_200), speechDb);
  const pause = silence(0.4);
  const speech = joined(...Array.from({ length: words }, () => [word, pause]).flat());
  return sum(speech, scaled(noise(2, speech.length), floorDb));
}
const read = (samples: Float32Array): Calibration => calibrate(makeFft, samples);

describe('calibration from a sample', () => {
  test.each([
    [-20, -60],
    [-26, -50],
    [-12, -70],
  ])('finds speech at %d dBFS over a floor of %d dBFS, and a gate between', (speechDb, floorDb) => {
    const found = read(spoken(speechDb, floorDb));
    expect(Math.abs((found.floorDb ?? 0) - floorDb)).toBeLessThan(0.7);
    expect(Math.abs((found.speechDb ?? 0) - speechDb)).toBeLessThan(0.7);
    expect(found.gateDb).toBeCloseTo((found.quietSpeechDb ?? 0) - 3, 6);
    expect(found.gateDb).toBeGreaterThan(floorDb + 6);
    expect(found.gateDb).toBeLessThan(speechDb);
    expect(found.gateChops).toBe(false);
    expect(found.remarks).toEqual([]);
    expect(found.histogram.reduce((all, count) => all + count, 0)).toBe(Math.floor(found.durationS * 20));
  });

  test('the gate stays 6 dB off the floor, and says when it would chop words', () => {
    const found = read(spoken(-30, -37.5));
    expect(found.gateDb).toBeCloseTo((found.floorDb ?? 0) + 6, 6);
    expect(found.gateChops).toBe(true);
    expect(found.remarks.join()).toContain('A gate would chop words');
  });

  test.each([50, 60] as const)('hears hum at %d Hz and harmonics under a voice', (hz) => {
    const voice = spoken(-20, -62);
    const hum = sum(
      ...Array.from({ length: 8 }, (_, i) => sine(hz * (i + 1), -58 - 3 * i, voice.length / 48_000)),
    );
    const found = read(sum(voice, hum));
    expect(found.hum?.hz).toBe(hz);
    expect(found.hum?.overDb).toBeGreaterThan(10);
    expect(found.remarks.join()).toContain(`It hums at ${hz} Hz`);
  });

  test('hears no hum in noise, and none in a clean voice', () => {
    expect(read(spoken(-20, -60)).hum).toBeNull();
    expect(read(scaled(noise(9, 480_000), -40)).hum).toBeNull();
  });

  test('an even noise has a floor, but no speech and no gate', () => {
    const found = read(scaled(noise(3, 480_000), -45));
    expect(found.floorDb).toBeCloseTo(-45, 0);
    expect(found).toMatchObject({ speechDb: null, gateDb: null, gateChops: false });
    expect(found.remarks).toEqual(['No speech stands out of it, so no gate can be set from it.']);
  });

  test('silence is nothing to read from, and two seconds are little', () => {
    expect(read(silence(3))).toMatchObject({
      floorDb: null,
      speechDb: null,
      gateDb: null,
      hum: null,
      remarks: ['Nothing sounds in it.'],
    });
    expect(read(spoken(-20, -60, 2)).remarks[0]).toContain('It is 1.6 s long');
    expect(read(new Float32Array(0)).durationS).toBe(0);
  });

  test('a DC offset is told, and does not count as sound', () => {
    const found = read(spoken(-20, -60).map((value) => value + 0.05));
    expect(found.dcOffset).toBeCloseTo(0.05, 3);
    expect(Math.abs((found.floorDb ?? 0) + 60)).toBeLessThan(1);
    expect(found.remarks.join()).toContain('DC offset');
  });

  test('a source that only clips is told to be turned down', () => {
    const square = sine(200, 20, 6).map((value) => Math.max(-1, Math.min(1, value)));
    const found = read(square);
    expect(found.clippedShare).toBeGreaterThan(0.8);
    expect(found.remarks.join()).toContain('it clips. Turn the input down.');
  });
});
