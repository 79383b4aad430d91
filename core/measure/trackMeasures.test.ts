import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../audio/random.ts';
import { RelationMeter } from './relations.ts';
import { TrackStatsMeter } from './trackStats.ts';

const RATE = 48_000;
const noise = (seed: number, gain = 0.2, frames = RATE) => {
  const random = seededRandom(seed);
  return Float32Array.from({ length: frames }, () => (random() * 2 - 1) * gain);
};
const statsOf = (...planes: Float32Array[]) => {
  const meter = new TrackStatsMeter(RATE, planes.length);
  for (let at = 0; at < planes[0].length; at += 1000)
    meter.add(
      planes.map((plane) => plane.subarray(at, at + 1000)),
      Math.min(1000, planes[0].length - at),
    );
  return meter.result();
};

describe('what is counted of a track', () => {
  test('is how its sides go together', () => {
    const [a, b] = [noise(1), noise(2)];
    const nothing = new Float32Array(RATE);
    expect(statsOf(a).sides).toBe('one channel');
    expect(statsOf(a, a.slice()).sides).toBe('two alike');
    expect(
      statsOf(
        a,
        a.map((value) => -value),
      ).sides,
    ).toBe('turned over');
    expect(statsOf(a, nothing).sides).toBe('left only');
    expect(statsOf(nothing, a).sides).toBe('right only');
    expect(statsOf(a, b).sides).toBe('stereo');
  });

  test('is how much of it is silent, its floor, and where it is clipped', () => {
    const plane = new Float32Array(2 * RATE);
    plane.set(noise(3, 0.01), 0);
    plane.fill(1, 1000, 1003);
    plane.fill(1, 2000, 2002);
    plane.fill(-1, 2999, 3010);
    const found = statsOf(plane);
    expect(found.silentShare).toBeCloseTo(0.5, 2);
    expect(found.clippedPlaces).toBe(2);
    expect(found.noiseFloorDb).toBeCloseTo(20 * Math.log10(0.01 / Math.sqrt(3)), 0);
    expect(statsOf(new Float32Array(RATE))).toMatchObject({ silentShare: 1, noiseFloorDb: null });
  });
});

describe('how tracks go together', () => {
  const [voice, game, music] = [noise(4), noise(5), noise(6)];
  const relate = (...planes: Float32Array[]) => {
    const meter = new RelationMeter(planes.length);
    meter.add(planes, RATE);
    return meter.result();
  };
  const sum = (...parts: [Float32Array, number][]) =>
    voice.map((_, i) => parts.reduce((total, [plane, gain]) => total + gain * plane[i], 0));

  test('is told of a sum with the gain of each part, and of its parts alone', () => {
    const found = relate(voice, game, music, sum([voice, 1], [game, 0.25]));
    const whole = found.find((one) => one.kind === 'sum' && one.track === 3);
    expect(whole).toMatchObject({ kind: 'sum', of: [{ track: 0 }, { track: 1 }] });
    const gains = whole?.kind === 'sum' ? whole.of.map(({ gainDb }) => gainDb) : [];
    expect(gains[0]).toBeCloseTo(0, 1);
    expect(gains[1]).toBeCloseTo(-12.04, 1);
  });

  test('is told of equal tracks, quieter ones too, and not of others', () => {
    expect(
      relate(
        voice,
        game,
        voice.map((value) => value / 2),
      ),
    ).toEqual([{ kind: 'equal', tracks: [0, 2], gainDb: expect.closeTo(-6.02, 1) }]);
    expect(relate(voice, game, music)).toEqual([]);
    expect(relate(voice, new Float32Array(RATE))).toEqual([]);
  });
});
