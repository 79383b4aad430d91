import { spawnSync } from 'node:child_process';
import { describe, expect, test } from '@jest/globals';
import { noise } from '../testing/tones.ts';
import { Kernels } from './kernels.ts';

const kernels = new Kernels(1 << 17);
const { loops } = kernels;
const COUNT = 64;
const a = kernels.copyOf(noise(1, COUNT));
const b = kernels.copyOf(noise(2, COUNT));

/** The largest difference of two lists. */
function apart(found: ArrayLike<number>, expected: ArrayLike<number>): number {
  return Array.from(expected).reduce((most, value, i) => Math.max(most, Math.abs(value - found[i])), 0);
}

interface Bin {
  re: number;
  im: number;
}

/** Complex bins as pairs. */
function binsOf(values: Float32Array): Bin[] {
  return Array.from({ length: values.length / 2 }, (_, i) => ({ re: values[2 * i], im: values[2 * i + 1] }));
}

/** conj(a) · b, bin by bin. */
function crossOf(mine: Bin[], theirs: Bin[]): Bin[] {
  return mine.map((one, i) => ({
    re: one.re * theirs[i].re + one.im * theirs[i].im,
    im: one.re * theirs[i].im - one.im * theirs[i].re,
  }));
}

describe('loops over floats do what the sums say', () => {
  test('fitting a sound of two parts to a mix of two sides', () => {
    const bins = COUNT / 2;
    const [left, right, first, second] = [3, 4, 5, 6].map((seed) => kernels.copyOf(noise(seed, COUNT)));
    const [l, r, m, s] = [left, right, first, second].map(binsOf);
    const weights = kernels.copyOf(noise(7, bins).map((value) => value + 1));
    const gain = 0.7;
    const at = (...rows: Float32Array[]) =>
      rows.map(({ byteOffset }) => byteOffset) as [number, number, number, number];

    const rest = kernels.floats(bins);
    loops.restOfPair(...at(left, right, first, second), gain, rest.byteOffset, bins);
    const left2 = (mix: Bin[], sound: Bin[], i: number) =>
      (mix[i].re - gain * sound[i].re) ** 2 + (mix[i].im - gain * sound[i].im) ** 2;
    expect(
      apart(
        rest,
        l.map((_, i) => left2(l, m, i) + left2(r, s, i)),
      ),
    ).toBeLessThan(1e-6);

    const sums = kernels.doubles(12 * bins);
    for (let twice = 0; twice < 2; twice++)
      loops.addFitSums(...at(left, right, first, second), weights.byteOffset, gain, bins, sums.byteOffset);
    const own = (shared: Bin[]) => [
      shared.map(({ re }, i) => 2 * weights[i] * gain ** 2 * re),
      shared.map(({ im }, i) => 2 * weights[i] * gain ** 2 * im),
    ];
    const withSide = (part: Bin[], side: Bin[]) =>
      own(crossOf(part, side)).map((list) => list.map((one) => one / gain));
    const expected = [
      own(crossOf(m, m))[0],
      own(crossOf(s, s))[0],
      ...own(crossOf(m, s)),
      ...[l, r].flatMap((side) => [m, s].flatMap((part) => withSide(part, side))),
    ];
    expect(apart(sums, expected.flat())).toBeLessThan(1e-6);

    const colours = kernels.floats(4 * COUNT);
    const [c1, c2] = [binsOf(noise(8, COUNT)), binsOf(noise(9, COUNT))];
    const listed = [c1, c2].flatMap((one) => [
      one.flatMap(({ re }) => [re, re]),
      one.flatMap(({ im }) => [-im, im]),
    ]);
    colours.set(listed.flat());
    const coloured = kernels.floats(COUNT);
    loops.colourIn(first.byteOffset, second.byteOffset, colours.byteOffset, coloured.byteOffset, bins);
    const times = (x: Bin, y: Bin) => [x.re * y.re - x.im * y.im, x.re * y.im + x.im * y.re];
    const wanted = m.flatMap((one, i) => {
      const [re, im] = times(one, c1[i]);
      const [otherRe, otherIm] = times(s[i], c2[i]);
      return [re + otherRe, im + otherIm];
    });
    expect(apart(coloured, wanted)).toBeLessThan(1e-6);

    const two = kernels.doubles(2).fill(1);
    loops.addLevelSums(left.byteOffset, first.byteOffset, weights.byteOffset, bins, two.byteOffset);
    const level = (other: Bin[]) => crossOf(m, other).reduce((sum, { re }, i) => sum + weights[i] * re, 1);
    expect(apart(two, [level(l), level(m)])).toBeLessThan(1e-5);
  });

  test.each([COUNT, COUNT - 1, COUNT - 3, 2])('scaling and adding what is capped, of %i values', (count) => {
    const [scaled, sums] = [kernels.copyOf(a), kernels.copyOf(b)];
    loops.scale(scaled.byteOffset, 1.5, count);
    loops.addCapped(a.byteOffset, 0.4, sums.byteOffset, count);
    const capped = Array.from(a, (value) => Math.max(-0.4, Math.min(0.4, value)));
    expect(
      apart(
        scaled,
        Array.from(a, (value, i) => (i < count ? 1.5 : 1) * value),
      ),
    ).toBeLessThan(1e-6);
    expect(
      apart(
        sums,
        Array.from(b, (value, i) => value + (i < count ? capped[i] : 0)),
      ),
    ).toBeLessThan(1e-6);
  });

  test.each([0, 3, 17, COUNT - 1])('the place of the greatest magnitude, when it is %i', (place) => {
    for (const sign of [1, -1]) {
      const values = kernels.copyOf(a.map((value, i) => (i === place ? 2 * sign : value)));
      expect(loops.placeOfHighest(values.byteOffset, COUNT)).toBe(place);
    }
    expect(loops.placeOfHighest(a.byteOffset, 1)).toBe(0);
    const silent = kernels.floats(COUNT);
    expect(loops.placeOfHighest(silent.byteOffset, COUNT)).toBe(0);
  });

  test.each([COUNT, COUNT - 1, COUNT - 3, 2])('products and their sum, of %i values', (count) => {
    const out = kernels.floats(COUNT);
    loops.multiply(a.byteOffset, b.byteOffset, out.byteOffset, count);
    const products = Array.from({ length: COUNT }, (_, i) => (i < count ? a[i] * b[i] : 0));
    expect(apart(out, products)).toBeLessThan(1e-7);
    const sum = products.reduce((total, value) => total + value, 0);
    expect(loops.dot(a.byteOffset, b.byteOffset, count)).toBeCloseTo(sum, 5);
  });

  test.each([COUNT, COUNT - 1, 3])('the greatest magnitude of %i values', (count) => {
    const most = Math.max(...Array.from(a.subarray(0, count), Math.abs));
    expect(loops.highest(a.byteOffset, count)).toBe(most);
  });

  test.each([32, 31, 2])('what a filter of eight taps gives at %i places', (count) => {
    const out = kernels.floats(COUNT);
    loops.halfway(a.byteOffset, count, b.byteOffset, 8, out.byteOffset);
    for (let i = 0; i < count; i++) {
      const sum = Array.from(b.subarray(0, 8)).reduce((total, tap, t) => total + tap * a[i + t], 0);
      expect(out[i]).toBeCloseTo(sum, 5);
    }
  });

  test.each([1, 9, 20])('a sound read between its samples, at %i places', (count) => {
    const [phases, taps, start, step] = [4, 8, 5.3, 1.7];
    const table = kernels.copyOf(noise(4, (phases + 1) * taps));
    const out = kernels.floats(COUNT);
    const [sound, weights] = [a, table].map(({ byteOffset }) => byteOffset);
    loops.interpolate(
      sound,
      100,
      start + 100 - 3 * step,
      step,
      3,
      count,
      weights,
      phases,
      taps,
      out.byteOffset,
    );
    const expected = Array.from({ length: COUNT }, (_, i) => {
      if (i >= count) return 0;
      const place = start + i * step;
      const within = (place - Math.floor(place)) * phases;
      const phase = Math.floor(within);
      const by = (row: number) => {
        let sum = 0;
        for (let tap = 0; tap < taps; tap++)
          sum += table[row * taps + tap] * a[Math.floor(place) - taps / 2 + 1 + tap];
        return sum;
      };
      return by(phase) + (within - phase) * (by(phase + 1) - by(phase));
    });
    expect(apart(out, expected)).toBeLessThan(1e-6);
  });

  test.each([32, 31, 2])('the peaks between %i pairs of samples, of two filters', (count) => {
    const filters = kernels.copyOf(noise(3, 26));
    const out = kernels.floats(COUNT).fill(0.01);
    const first = 2;
    loops.peaksBetween(a.byteOffset + 4 * first, b.byteOffset, count, filters.byteOffset, 2, out.byteOffset);
    for (let i = 0; i < COUNT; i++) {
      const between = [0, 13].map((from) => {
        let sum = 0;
        for (let tap = 0; tap < 6; tap++) sum += filters[from + tap] * (a[i + tap] ?? 0);
        for (let tap = 0; tap < 7; tap++) sum += filters[from + 6 + tap] * (b[i + tap] ?? 0);
        return sum;
      });
      const all = [...between, a[i + first] ?? 0, a[i + first + 1] ?? 0, b[i + 3] ?? 0].map(Math.abs);
      expect(out[i]).toBeCloseTo(i < count ? Math.max(0.01, ...all) : 0.01, 5);
    }
  });

  test.each([COUNT, COUNT - 1, 3])('%i scaled values are added to what is there', (count) => {
    const out = kernels.floats(COUNT).fill(2);
    loops.addScaled(a.byteOffset, -0.5, out.byteOffset, count);
    const sums = Array.from({ length: COUNT }, (_, i) => (i < count ? 2 - a[i] / 2 : 2));
    expect(apart(out, sums)).toBeLessThan(1e-6);
  });

  test('two planes at once are scaled and added to what is there', () => {
    const [left, right] = [kernels.floats(COUNT).fill(1), kernels.floats(COUNT)];
    loops.addPair(a.byteOffset, b.byteOffset, 0.25, left.byteOffset, right.byteOffset, COUNT);
    const sums = (from: Float32Array, start: number) => Array.from(from, (value) => start + value / 4);
    expect(apart(left, sums(a, 1))).toBeLessThan(1e-6);
    expect(apart(right, sums(b, 0))).toBeLessThan(1e-6);
  });

  test.each([8, 5, 2])('%i interleaved pairs of 16 bits are dealt out to two planes', (count) => {
    const packed = kernels.floats(8);
    const values = new Int16Array(packed.buffer, packed.byteOffset, 16);
    values.set([0, 32767, -32768, 1, -1, 256, 512, -512, 3, 4, 5, 6, 7, 8, 9, 10]);
    const [left, right] = [kernels.floats(8), kernels.floats(8)];
    loops.unpackPairs(packed.byteOffset, count, 2 ** -15, left.byteOffset, right.byteOffset);
    for (let i = 0; i < 8; i++) {
      expect(left[i]).toBe(i < count ? values[2 * i] / 32768 : 0);
      expect(right[i]).toBe(i < count ? values[2 * i + 1] / 32768 : 0);
    }
  });

  test('pairs as whole numbers of 24 bits, rounded and held at full scale', () => {
    const COUNTED = 256;
    const [left, right] = [kernels.floats(COUNTED), kernels.floats(COUNTED)];
    for (let i = 0; i < COUNTED; i++) {
      left[i] = 1.2 * Math.sin(i * i);
      right[i] = (i - COUNTED / 2 + 0.5) / 2 ** 23;
    }
    left.set([1, -1, 2, -2, Number.POSITIVE_INFINITY, Number.NaN, 0.9999999, -0.9999999]);
    const wholes = kernels.floats(2 * COUNTED);
    const packed = kernels.floats(1.5 * COUNTED + 4);
    loops.wholePairs(left.byteOffset, right.byteOffset, COUNTED, wholes.byteOffset);
    loops.packPairs(left.byteOffset, right.byteOffset, COUNTED, packed.byteOffset);
    const values = new Int32Array(wholes.buffer, wholes.byteOffset, 2 * COUNTED);
    const bytes = new Uint8Array(packed.buffer, packed.byteOffset, 6 * COUNTED);
    for (let i = 0; i < 2 * COUNTED; i++) {
      const value = (i % 2 ? right : left)[i >> 1];
      const whole = Math.max(-(2 ** 23), Math.min(2 ** 23 - 1, Math.round(value * 2 ** 23))) | 0;
      expect(values[i]).toBe(whole << 8);
      expect((bytes[3 * i] << 8) | (bytes[3 * i + 1] << 16) | (bytes[3 * i + 2] << 24)).toBe(whole << 8);
    }
  });

  test('memory that is taken back is zeros again, and its loops still work', () => {
    const again = new Kernels(256);
    again.floats(128).fill(7);
    again.clear();
    const [one, out] = [again.floats(128), again.floats(128)];
    expect(one.every((value) => value === 0)).toBe(true);
    again.loops.addScaled(one.fill(3).byteOffset, 2, out.byteOffset, 128);
    expect(out.every((value) => value === 6)).toBe(true);
  });

  test.each([COUNT, COUNT - 1, 3])('the mean of %i values', (count) => {
    const out = kernels.floats(COUNT);
    loops.mean(a.byteOffset, b.byteOffset, out.byteOffset, count);
    const means = Array.from({ length: COUNT }, (_, i) => (i < count ? (a[i] + b[i]) / 2 : 0));
    expect(apart(out, means)).toBeLessThan(1e-7);
  });

  test('products are added to what is there', () => {
    const out = kernels.floats(COUNT).fill(3);
    loops.addProducts(a.byteOffset, b.byteOffset, out.byteOffset, COUNT);
    expect(
      apart(
        out,
        Array.from(a, (value, i) => 3 + value * b[i]),
      ),
    ).toBeLessThan(1e-6);
  });

  test('the sum of a million squares of one half', () => {
    const much = new Kernels(1 << 20);
    const halves = much.floats(1_000_000).fill(0.5);
    expect(much.loops.dot(halves.byteOffset, halves.byteOffset, halves.length)).toBeCloseTo(250_000, 0);
  });
});

describe('loops over complex bins', () => {
  test('the strongest power, wherever it stands', () => {
    for (const at of [0, 1, 5, 62]) {
      const bins = kernels.copyOf(a);
      bins[at] = 3;
      const strongest = Math.max(...binsOf(bins).map(({ re, im }) => re * re + im * im));
      expect(loops.strongestPower(bins.byteOffset, COUNT)).toBeCloseTo(strongest, 5);
    }
  });

  test('flattened and phases keep the angle and bring the magnitude to one', () => {
    for (const flat of [true, false]) {
      const bins = kernels.copyOf(a);
      if (flat) loops.flatten(bins.byteOffset, COUNT, 1, 1e-12);
      else loops.toPhases(bins.byteOffset, COUNT, 1e-9);
      binsOf(bins).forEach(({ re, im }, i) => {
        expect(Math.hypot(re, im)).toBeCloseTo(1, 4);
        expect(Math.atan2(im, re)).toBeCloseTo(Math.atan2(a[2 * i + 1], a[2 * i]), 4);
      });
    }
  });

  test('the powers of bands are the means over their bins, of one bin at least', () => {
    const bins = binsOf(a);
    const edges = [0, 1, 5, 5, COUNT / 2];
    const at = kernels.floats(edges.length);
    new Int32Array(at.buffer, at.byteOffset, at.length).set(edges);
    const out = kernels.floats(edges.length - 1);
    loops.bandPowers(a.byteOffset, at.byteOffset, edges.length - 1, out.byteOffset);
    const expected = edges.slice(0, -1).map((from, band) => {
      const there = bins.slice(from, Math.max(from + 1, edges[band + 1]));
      return there.reduce((sum, { re, im }) => sum + re * re + im * im, 0) / there.length;
    });
    expect(apart(out, expected)).toBeLessThan(1e-4);
  });

  test('what is added of a cross-spectrum is conj(a) · b', () => {
    const added = kernels.copyOf(b);
    loops.addCrossSpectrum(a.byteOffset, b.byteOffset, added.byteOffset, COUNT);
    const expected = crossOf(binsOf(a), binsOf(b)).flatMap(({ re, im }) => [re, im]);
    const sums = expected.map((value, i) => value + b[i]);
    expect(apart(added, sums)).toBeLessThan(1e-6);
  });

  test('a cross-spectrum is filtered and every third bin kept, over more than one portion of it', () => {
    const bins = 6 * 300;
    const [one, two] = [5, 6].map((seed) => kernels.copyOf(noise(seed, 2 * bins)));
    const taps = noise(7, 10);
    const doubled = kernels.copyOf(Float32Array.from({ length: 20 }, (_, i) => taps[Math.floor(i / 2)]));
    const [out, room] = [kernels.floats((2 * bins) / 3), kernels.floats(3_100)];
    const addresses = [doubled, out, room].map(({ byteOffset }) => byteOffset);
    loops.crossEveryThird(one.byteOffset, two.byteOffset, bins, addresses[0], addresses[1], addresses[2]);
    const cross = crossOf(binsOf(one), binsOf(two));
    const expected = Array.from({ length: bins / 3 }, (_, kept) => {
      const near = Array.from(taps, (tap, i) => ({ tap, bin: cross[3 * kept - 4 + i] ?? { re: 0, im: 0 } }));
      return ['re' as const, 'im' as const].map((part) =>
        near.reduce((sum, { tap, bin }) => sum + tap * bin[part], 0),
      );
    });
    expect(apart(out, expected.flat())).toBeLessThan(1e-5);
  });
});

describe('loops over codes in a period do what the sums say', () => {
  const bins = COUNT / 2;
  const weights = kernels.copyOf(noise(8, bins).map((value) => 1 + value));
  const weighted = crossOf(binsOf(b), binsOf(a)).map(({ re, im }, i) => ({
    re: re * weights[i],
    im: im * weights[i],
  }));

  test('the weighted cross-spectrum of a sound and a code, and the weighted power of a code', () => {
    const out = kernels.floats(COUNT);
    loops.crossWeighted(a.byteOffset, b.byteOffset, weights.byteOffset, bins, 0.5, out.byteOffset);
    expect(
      apart(
        out,
        weighted.flatMap(({ re, im }) => [re / 2, im / 2]),
      ),
    ).toBeLessThan(1e-6);
    const power = binsOf(b).reduce((sum, { re, im }, i) => sum + weights[i] * (re * re + im * im), 0);
    expect(loops.weightedPower(b.byteOffset, weights.byteOffset, bins)).toBeCloseTo(power, 4);
  });

  test.each([3, bins])('each bin counts by how little sounds in %i bins to each side', (aside) => {
    const out = kernels.floats(bins);
    const powers = binsOf(a).map(({ re, im }) => re * re + im * im);
    const mean = (of: number[]) => of.reduce((sum, one) => sum + one, 0) / of.length;
    loops.inversePowers(a.byteOffset, bins, aside, 0.1, 1e-12, out.byteOffset);
    const expected = powers.map((_, bin) => {
      const around = powers.slice(Math.max(0, bin - aside), bin + aside);
      return 1 / (0.1 * mean(powers) + mean(around));
    });
    expect(apart(out, expected)).toBeLessThan(1e-4);
    loops.inversePowers(kernels.floats(COUNT).byteOffset, bins, aside, 0.1, 0.25, out.byteOffset);
    expect([...out]).toEqual(new Array(bins).fill(4));
  });

  test('a code that is turned, and how well it fits, with both derivatives', () => {
    const [first, each, lag] = [10, 0.02, 0.7];
    const likeAt = (at: number) =>
      weighted.reduce((sum, { re, im }, i) => {
        const angle = each * at * (first + i);
        return sum + re * Math.cos(angle) - im * Math.sin(angle);
      }, 0);
    const sums = kernels.doubles(3);
    const [sound, code, by] = [a, b, weights].map(({ byteOffset }) => byteOffset);
    loops.fitOfCode(sound, code, by, first, bins, each * lag, each, sums.byteOffset);
    const [like, slope, bend] = sums;
    expect(like).toBeCloseTo(likeAt(lag), 5);
    expect(slope).toBeCloseTo((likeAt(lag + 1e-4) - likeAt(lag - 1e-4)) / 2e-4, 4);
    expect(bend).toBeCloseTo((likeAt(lag + 1e-3) - 2 * likeAt(lag) + likeAt(lag - 1e-3)) / 1e-6, 3);
    const out = kernels.floats(COUNT);
    loops.turnBins(b.byteOffset, first, bins, each, out.byteOffset);
    const turned = binsOf(b).flatMap(({ re, im }, i) => {
      const [cos, sin] = [Math.cos(each * (first + i)), Math.sin(each * (first + i))];
      return [re * cos - im * sin, re * sin + im * cos];
    });
    expect(apart(out, turned)).toBeLessThan(1e-6);
  });
});

test('a gain is found where the track is so many times the reference, and the weights follow what is left', () => {
  const bins = COUNT / 2;
  const [own, whole, cross] = [0, 1, 2].map(() => kernels.floats(bins + 8).subarray(4, 4 + bins));
  const cos = kernels.floats(bins).fill(1);
  const sin = kernels.floats(bins);
  const track = kernels.copyOf(a.map((value) => value * 0.25));
  loops.powersAndCross(
    a.byteOffset,
    track.byteOffset,
    cos.byteOffset,
    sin.byteOffset,
    own.byteOffset,
    whole.byteOffset,
    cross.byteOffset,
    bins,
  );
  const [first] = binsOf(a);
  const power = first.re ** 2 + first.im ** 2;
  expect([own[0], cross[0] / power, whole[0] / power].map((value) => Number(value.toFixed(5)))).toEqual([
    Number(power.toFixed(5)),
    0.25,
    0.0625,
  ]);
  const sums = kernels.doubles(2);
  loops.fitGain(own.byteOffset, whole.byteOffset, cross.byteOffset, bins, 0, 0, sums.byteOffset);
  expect(sums[0] / sums[1]).toBeCloseTo(0.25, 4);
  whole.fill(0, bins / 2);
  cross.fill(0, bins / 2);
  const gainWhere = (empty: number) => {
    sums.fill(0);
    loops.fitGain(own.byteOffset, whole.byteOffset, cross.byteOffset, bins, 0, empty, sums.byteOffset);
    return sums[0] / sums[1];
  };
  expect(gainWhere(-1)).toBeLessThan(0.001);
  // Two bins beside the end of what is there still count.
  expect(gainWhere(1e-9)).toBeGreaterThan(0.1);
});

test('more memory than was asked for is refused', () => {
  expect(() => new Kernels(100).floats(1 << 20)).toThrow(/bytes, .* are needed/);
});

test('what is shipped is what the source compiles to', () => {
  const { status, stderr } = spawnSync('node', ['scripts/kernels.mjs', '--check'], { encoding: 'utf8' });
  expect({ status, stderr: stderr.replace(/^npm warn.*\n/gm, '') }).toMatchObject({ status: 0 });
});
