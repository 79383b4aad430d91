import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../audio/random.ts';
import { takeOutCoderNoise } from './coderNoise.ts';
import { BINS, ROW } from './spectra.ts';

const FRAMES = 400;

/** Spectra of both sides whose power is told for each frame and bin. */
function spectra(seed: number, power: (frame: number, bin: number) => number): Float32Array[] {
  const uniform = seededRandom(seed);
  const random = () => 2 * uniform() - 1;
  return [0, 1].map(() => {
    const values = new Float32Array(FRAMES * ROW);
    for (let frame = 0; frame < FRAMES; frame++)
      for (let bin = 1; bin < BINS; bin++)
        for (const part of [0, 1])
          values[frame * ROW + 2 * bin + part] = random() * Math.sqrt(power(frame, bin));
    return values;
  });
}

const sum = (...all: Float32Array[][]) =>
  [0, 1].map((side) => all[0][side].map((_, at) => all.reduce((total, one) => total + one[side][at], 0)));
const powerOf = (planes: Float32Array[], from = 1, to = BINS) => {
  let power = 0;
  for (const plane of planes)
    for (let frame = 0; frame < FRAMES; frame++)
      for (let at = frame * ROW + 2 * from; at < frame * ROW + 2 * to; at++) power += plane[at] ** 2;
  return power;
};
const db = (one: number, other: number) => 10 * Math.log10(one / other);

/** A sound whose beats are 30 dB apart, and the noise of a coder along with it: more of it, the higher. */
const beats = (frame: number) => (frame % 20 < 8 ? 1 : 0.001);
const share = (bin: number) => (bin < 200 ? 0.01 : 0.06);
const sound = spectra(1, beats);
const noise = spectra(2, (frame, bin) => share(bin) * beats(frame));

/** What is left of a mix, what of it is wrong, and how much that was said to be. */
function takenFrom(others: Float32Array[]) {
  const mix = sum(sound, noise, others);
  const taken = sound.map((plane) => plane.slice());
  const said = takeOutCoderNoise(mix, taken, FRAMES);
  const left = mix.map((plane, side) => plane.map((value, at) => value - taken[side][at]));
  const wrong = left.map((plane, side) => plane.map((value, at) => value - others[side][at]));
  return { left, wrong, said };
}

describe('the noise of a coder goes along with what is taken out', () => {
  test('by more than 6 dB where little else sounds', () => {
    const others = spectra(3, (frame) => (frame % 50 < 10 ? 0.01 : 0));
    const { wrong } = takenFrom(others);
    expect(db(powerOf(wrong), powerOf(noise))).toBeLessThan(-6);
  });

  test('and what else sounds keeps its power, loud or soft', () => {
    for (const level of [0.3, 1, 10]) {
      const others = spectra(4, () => level);
      const { left } = takenFrom(others);
      for (const [from, to] of [
        [10, 200],
        [200, 600],
      ])
        expect(Math.abs(db(powerOf(left, from, to), powerOf(sum(others, noise), from, to)))).toBeLessThan(
          0.5,
        );
    }
  });

  test('what is said to be wrong is near to what is', () => {
    const others = spectra(5, (frame) => (frame % 50 < 10 ? 0.05 : 0));
    const { wrong, said } = takenFrom(others);
    expect(Math.abs(db(said, powerOf(wrong)))).toBeLessThan(2);
  });

  test('without the sound, nothing changes', () => {
    const others = spectra(6, () => 1);
    const taken = others.map((plane) => new Float32Array(plane.length));
    expect(takeOutCoderNoise(others, taken, FRAMES)).toBe(0);
    expect(powerOf(taken)).toBe(0);
  });
});
