import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { DEMO_SOUNDS } from '../demo/sounds.ts';
import { withFft } from '../measure/fft.ts';
import { downDb, Subtractor } from './subtract.ts';

const RATE = 48_000;
const SECONDS = 24;
const MARGIN = RATE;

const both = (make: (side: 0 | 1) => Float32Array<ArrayBuffer>): Stereo => [make(0), make(1)];
const demo = (name: string): Stereo => {
  const { left, right } = (DEMO_SOUNDS.find(({ file }) => file === name) ?? DEMO_SOUNDS[0]).make();
  return [left, right];
};
const powerOf = (planes: Stereo, fromS = 0, toS = SECONDS) =>
  planes.reduce(
    (sum, plane) =>
      sum + plane.subarray(fromS * RATE, toS * RATE).reduce((all, value) => all + value * value, 0),
    0,
  );
const lock = demo('lock-and-paddle.flac');
const game = both((side) => lock[side].slice(0, SECONDS * RATE));
const music = demo('reedbox.flac');
const gain = Math.sqrt(powerOf(game) / powerOf(music));

/** Takes music out of game sound: it is as loud as that, and sounds from one moment to another. */
async function takenOut(fromS: number, toS: number, channels: 1 | 2) {
  const sounding = (i: number) => (i >= fromS * RATE && i < toS * RATE ? gain : 0);
  const folded = (planes: Stereo): Stereo => {
    if (channels === 2) return planes;
    const [left, right] = planes;
    return both(() => left.map((value, i) => (value + right[i]) / 2));
  };
  const rest = folded(game);
  const leak = folded(both((side) => rest[side].map((_, i) => sounding(i) * music[side][i])));
  const mix = both((side) => rest[side].map((value, i) => value + leak[side][i]));
  const reference = both((side) => {
    const around = new Float32Array(SECONDS * RATE + 2 * MARGIN);
    around.set(music[side].subarray(0, SECONDS * RATE + MARGIN), MARGIN);
    return around;
  });
  return withFft(async (makeFft) => {
    const request = { mix, reference, margin: MARGIN, lag: { atStart: 0, perSample: 0 }, isCoded: false };
    const { taken, ...part } = new Subtractor(makeFft).subtract(request);
    const left = both((side) => leak[side].map((value, i) => value - taken[side][i]));
    const [from, to] = [fromS + 1, toS - 1];
    return {
      down: 10 * Math.log10(powerOf(leak, from, to) / powerOf(left, from, to)),
      claimed: downDb([part]) ?? 0,
      before: powerOf(taken, 0, fromS - 1) / powerOf(taken),
    };
  });
}

describe('a sound that does not fill the section', () => {
  test.each([[8, 16, 2] as const, [8, 16, 1] as const, [12, 16, 2] as const])(
    'goes down by 25 dB, and no more is claimed (%i to %i s, channels: %i)',
    async (fromS, toS, channels) => {
      const { down, claimed, before } = await takenOut(fromS, toS, channels);
      expect(down).toBeGreaterThan(25);
      expect(claimed).toBeLessThan(down);
      expect(claimed).toBeGreaterThan(15);
      expect(before).toBeLessThan(1e-6);
    },
  );
});
