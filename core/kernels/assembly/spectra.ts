/** Spectra, as complex bins (real, imaginary, …). See index.ts for what all loops have in common. */
import { FLOAT, FOUR, sumOf } from './shared';

/** Returns the greatest power of the complex bins of a spectrum; a count that four divides. */
export function strongestPower(binsAt: usize, count: i32): f32 {
  const end = binsAt + (count as usize) * FLOAT;
  let strongest = f32x4.splat(0);
  for (; binsAt < end; binsAt += FOUR) strongest = f32x4.max(strongest, powersOf(v128.load(binsAt)));
  const pair = f32x4.max(strongest, v128.shuffle<f32>(strongest, strongest, 2, 3, 0, 1));
  return f32x4.extract_lane(pair, 0);
}

/** Writes the mean power of the bins of each band; the bands begin where the 32-bit integers at `edgesAt` say, and there is one more of those. */
export function bandPowers(binsAt: usize, edgesAt: usize, bands: i32, outAt: usize): void {
  for (let band = 0; band < bands; band++) {
    const from = load<i32>(edgesAt);
    const end = max(from + 1, load<i32>(edgesAt, FLOAT));
    let sum: f32 = 0;
    const last = binsAt + ((2 * end) as usize) * FLOAT;
    for (let at = binsAt + ((2 * from) as usize) * FLOAT; at < last; at += 2 * FLOAT) {
      const real = load<f32>(at);
      const imaginary = load<f32>(at, FLOAT);
      sum += real * real + imaginary * imaginary;
    }
    store<f32>(outAt, sum / ((end - from) as f32));
    edgesAt += FLOAT;
    outAt += FLOAT;
  }
}

/** Brings complex bins to about one magnitude: each times scale / √(power + floor); a count that four divides. */
export function flatten(binsAt: usize, count: i32, scale: f32, floor: f32): void {
  const end = binsAt + (count as usize) * FLOAT;
  const floors = f32x4.splat(floor);
  const scales = f32x4.splat(scale);
  for (; binsAt < end; binsAt += FOUR) {
    const bins = v128.load(binsAt);
    const gains = f32x4.div(scales, f32x4.sqrt(f32x4.add(powersOf(bins), floors)));
    v128.store(binsAt, f32x4.mul(bins, gains));
  }
}

/** Divides complex bins by their magnitude plus a floor; a count that four divides. */
export function toPhases(binsAt: usize, count: i32, floor: f32): void {
  const end = binsAt + (count as usize) * FLOAT;
  const floors = f32x4.splat(floor);
  for (; binsAt < end; binsAt += FOUR) {
    const bins = v128.load(binsAt);
    v128.store(binsAt, f32x4.div(bins, f32x4.add(f32x4.sqrt(powersOf(bins)), floors)));
  }
}

/** out += conj(a) · b, bin by complex bin; a count that four divides. */
export function addCrossSpectrum(aAt: usize, bAt: usize, outAt: usize, count: i32): void {
  const end = outAt + (count as usize) * FLOAT;
  while (outAt < end) {
    v128.store(outAt, f32x4.add(v128.load(outAt), crossed(aAt, bAt)));
    aAt += FOUR;
    bAt += FOUR;
    outAt += FOUR;
  }
}

/** So many bins that come out are made at a time, so that what goes between stays near. */
const PORTION = 512;
/** The filter's taps: two before the middle one stand for four bins. */
const TAP_PAIRS = 5;
const BEFORE = 4;

/**
 * conj(a) · b, filtered, of which every third complex bin is kept: bin k that comes out is the sum of bins 3 k − 4 to 3 k + 5, each times its tap; zeros
 * stand before the first bin and after the last. Taps stand in pairs, each twice (t0 t0 t1 t1). A number of bins that six divides comes in; at `roomAt`
 * there is room for 3,100 floats.
 */
export function crossEveryThird(
  aAt: usize,
  bAt: usize,
  bins: i32,
  tapsAt: usize,
  outAt: usize,
  roomAt: usize,
): void {
  const t0 = v128.load(tapsAt);
  const t1 = v128.load(tapsAt, 16);
  const t2 = v128.load(tapsAt, 32);
  const t3 = v128.load(tapsAt, 48);
  const t4 = v128.load(tapsAt, 64);
  for (let first = 0; first < bins / 3; first += PORTION) {
    const count = min(PORTION, bins / 3 - first);
    const from = 3 * first - BEFORE;
    const end = from + 3 * count + 2 * TAP_PAIRS;
    let at = roomAt;
    for (let bin = from; bin < end; bin += 2) {
      const there = ((2 * bin) as usize) * FLOAT;
      v128.store(at, bin < 0 || bin >= bins ? f32x4.splat(0) : crossed(aAt + there, bAt + there));
      at += FOUR;
    }
    at = roomAt;
    for (let bin = 0; bin < count; bin++) {
      const outer = f32x4.add(f32x4.mul(v128.load(at), t0), f32x4.mul(v128.load(at, 64), t4));
      const inner = f32x4.add(f32x4.mul(v128.load(at, 16), t1), f32x4.mul(v128.load(at, 48), t3));
      const sum = f32x4.add(f32x4.add(outer, inner), f32x4.mul(v128.load(at, 32), t2));
      v128.store_lane<u64>(outAt, f32x4.add(sum, v128.shuffle<f32>(sum, sum, 2, 3, 0, 1)), 0);
      outAt += 2 * FLOAT;
      at += 6 * FLOAT;
    }
  }
}

/** conj(a) · b of two complex bins. */
@inline
export function crossed(aAt: usize, bAt: usize): v128 {
  const a = v128.load(aAt);
  const b = v128.load(bAt);
  const real = v128.shuffle<f32>(a, a, 0, 0, 2, 2);
  const imaginary = f32x4.mul(v128.shuffle<f32>(a, a, 1, 1, 3, 3), f32x4(1, -1, 1, -1));
  return f32x4.add(f32x4.mul(real, b), f32x4.mul(imaginary, v128.shuffle<f32>(b, b, 1, 0, 3, 2)));
}

/**
 * Writes the power of each bin of a and of b, and the real part of conj(a) · b turned by an angle given for each bin by
 * its cosine and sine. A number of bins that four divides.
 */
export function powersAndCross(
  aAt: usize,
  bAt: usize,
  cosAt: usize,
  sinAt: usize,
  ownAt: usize,
  wholeAt: usize,
  crossAt: usize,
  bins: i32,
): void {
  const end = (bins as usize) * FLOAT;
  for (let at: usize = 0; at < end; at += FOUR) {
    const a0 = v128.load(aAt + 2 * at);
    const a1 = v128.load(aAt + 2 * at + FOUR);
    const b0 = v128.load(bAt + 2 * at);
    const b1 = v128.load(bAt + 2 * at + FOUR);
    const a = v128.shuffle<f32>(a0, a1, 0, 2, 4, 6);
    const b = v128.shuffle<f32>(a0, a1, 1, 3, 5, 7);
    const c = v128.shuffle<f32>(b0, b1, 0, 2, 4, 6);
    const d = v128.shuffle<f32>(b0, b1, 1, 3, 5, 7);
    v128.store(ownAt + at, f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)));
    v128.store(wholeAt + at, f32x4.add(f32x4.mul(c, c), f32x4.mul(d, d)));
    const real = f32x4.mul(f32x4.add(f32x4.mul(a, c), f32x4.mul(b, d)), v128.load(cosAt + at));
    const turned = f32x4.mul(f32x4.sub(f32x4.mul(a, d), f32x4.mul(b, c)), v128.load(sinAt + at));
    v128.store(crossAt + at, f32x4.sub(real, turned));
  }
}

/**
 * One round of a weighted least-squares gain over the bins of one frame: each bin's weight is the inverse of what the
 * gain leaves unexplained there, smoothed over two bins to each side, for which zeros stand before and after the bins. Bins where
 * the five powers of `whole` come to no more than `empty` do not count.
 * Adds Σ weight · cross and Σ weight · own to the two doubles at `sumsAt`.
 */
export function fitGain(
  ownAt: usize,
  wholeAt: usize,
  crossAt: usize,
  bins: i32,
  gain: f32,
  empty: f32,
  sumsAt: usize,
): void {
  const end = (bins as usize) * FLOAT;
  const twice = f32x4.splat(2 * gain);
  const squared = f32x4.splat(gain * gain);
  const share = f32x4.splat(1e-5);
  const least = f32x4.splat(1e-7);
  const nothing = f32x4.splat(empty);
  let top = f32x4.splat(0);
  let bottom = f32x4.splat(0);
  for (let at: usize = 0; at < end; at += FOUR) {
    const own = fiveAround(ownAt + at);
    const whole = fiveAround(wholeAt + at);
    const cross = fiveAround(crossAt + at);
    const rest = f32x4.add(f32x4.sub(whole, f32x4.mul(twice, cross)), f32x4.mul(squared, own));
    const variance = f32x4.add(f32x4.max(rest, f32x4.mul(share, whole)), least);
    const weight = v128.and(f32x4.div(f32x4.splat(1), variance), f32x4.gt(whole, nothing));
    top = f32x4.add(top, f32x4.mul(weight, v128.load(crossAt + at)));
    bottom = f32x4.add(bottom, f32x4.mul(weight, v128.load(ownAt + at)));
  }
  store<f64>(sumsAt, load<f64>(sumsAt) + sumOf(top));
  store<f64>(sumsAt + 8, load<f64>(sumsAt + 8) + sumOf(bottom));
}

/** Four sums of five neighbours each. */
@inline
function fiveAround(at: usize): v128 {
  const outer = f32x4.add(v128.load(at - 2 * FLOAT), v128.load(at + 2 * FLOAT));
  const inner = f32x4.add(v128.load(at - FLOAT), v128.load(at + FLOAT));
  return f32x4.add(f32x4.add(outer, inner), v128.load(at));
}

/** The powers of two complex bins, each twice. */
@inline
export function powersOf(bins: v128): v128 {
  const squares = f32x4.mul(bins, bins);
  return f32x4.add(squares, v128.shuffle<f32>(squares, squares, 1, 0, 3, 2));
}
