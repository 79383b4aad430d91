/** Codes in one period of a sound, as spectra (real, imaginary, …). See index.ts for what all loops have in common. */
import { crossed, powersOf } from './spectra';
import { FLOAT, FOUR, sumOf } from './shared';

/** out = sound · conj(code), each complex bin times its weight and a scale; a number of bins that two divides. */
export function crossWeighted(
  soundAt: usize,
  codeAt: usize,
  weightsAt: usize,
  bins: i32,
  scale: f32,
  outAt: usize,
): void {
  const scales = f32x4.splat(scale);
  const end = outAt + ((2 * bins) as usize) * FLOAT;
  while (outAt < end) {
    const weights = f32x4.mul(pairOf(weightsAt), scales);
    v128.store(outAt, f32x4.mul(crossed(codeAt, soundAt), weights));
    soundAt += FOUR;
    codeAt += FOUR;
    weightsAt += 2 * FLOAT;
    outAt += FOUR;
  }
}

/** Returns the sum of the powers of complex bins, each times its weight; a number of bins that two divides. */
export function weightedPower(binsAt: usize, weightsAt: usize, bins: i32): f64 {
  const end = binsAt + ((2 * bins) as usize) * FLOAT;
  let total: f64 = 0;
  while (binsAt < end) {
    let sums = f32x4.splat(0);
    const portion = min(end, binsAt + 64 * FOUR);
    for (; binsAt < portion; binsAt += FOUR) {
      sums = f32x4.add(sums, f32x4.mul(powersOf(v128.load(binsAt)), pairOf(weightsAt)));
      weightsAt += 2 * FLOAT;
    }
    // Each power stands there twice.
    total += sumOf(sums) / 2;
  }
  return total;
}

/**
 * Writes 1 / (floor + the mean power of the bins around) for each bin: so many to each side, as far as there are bins. The floor is a share of the
 * mean power of all of them.
 */
export function inversePowers(binsAt: usize, bins: i32, aside: i32, share: f64, least: f64, outAt: usize): void {
  let total: f64 = 0;
  for (let bin = 0; bin < bins; bin++) total += powerAt(binsAt, bin);
  const floor = max(least, (share * total) / (bins as f64));
  let sum: f64 = 0;
  let from = 0;
  let to = 0;
  for (let bin = 0; bin < bins; bin++) {
    while (to < min(bins, bin + aside)) {
      sum += powerAt(binsAt, to);
      to += 1;
    }
    while (from < bin - aside) {
      sum -= powerAt(binsAt, from);
      from += 1;
    }
    const around = max(0, sum) / ((to - from) as f64);
    store<f32>(outAt + (bin as usize) * FLOAT, (1 / (floor + around)) as f32);
  }
}

/**
 * How well a code fits a sound at a lag, over some bins from `first` on (an even number), in doubles: Σ weight · Re(sound · conj(code) · turn), and
 * its first and second derivative by the lag; to the three doubles at `sumsAt`. Each bin is turned by `angle` times its number, and its number
 * times `each` is by how much its turn changes with the lag.
 */
export function fitOfCode(
  soundAt: usize,
  codeAt: usize,
  weightsAt: usize,
  first: i32,
  bins: i32,
  angle: f64,
  each: f64,
  sumsAt: usize,
): void {
  let turnRe = f64x2(Math.cos(angle * first), Math.cos(angle * (first + 1)));
  let turnIm = f64x2(Math.sin(angle * first), Math.sin(angle * (first + 1)));
  const byRe = f64x2.splat(Math.cos(2 * angle));
  const byIm = f64x2.splat(Math.sin(2 * angle));
  let omega = f64x2(each * first, each * (first + 1));
  const step = f64x2.splat(2 * each);
  let like = f64x2.splat(0);
  let slope = f64x2.splat(0);
  let bend = f64x2.splat(0);
  for (let bin = 0; bin < bins; bin += 2) {
    const cross = f32x4.mul(crossed(codeAt, soundAt), pairOf(weightsAt));
    const re = f64x2.promote_low_f32x4(v128.shuffle<f32>(cross, cross, 0, 2, 0, 2));
    const im = f64x2.promote_low_f32x4(v128.shuffle<f32>(cross, cross, 1, 3, 1, 3));
    const along = f64x2.sub(f64x2.mul(re, turnRe), f64x2.mul(im, turnIm));
    const across = f64x2.add(f64x2.mul(re, turnIm), f64x2.mul(im, turnRe));
    like = f64x2.add(like, along);
    slope = f64x2.sub(slope, f64x2.mul(omega, across));
    bend = f64x2.sub(bend, f64x2.mul(f64x2.mul(omega, omega), along));
    const turned = f64x2.sub(f64x2.mul(turnRe, byRe), f64x2.mul(turnIm, byIm));
    turnIm = f64x2.add(f64x2.mul(turnRe, byIm), f64x2.mul(turnIm, byRe));
    turnRe = turned;
    omega = f64x2.add(omega, step);
    soundAt += FOUR;
    codeAt += FOUR;
    weightsAt += 2 * FLOAT;
  }
  store<f64>(sumsAt, bothOf(like));
  store<f64>(sumsAt + 8, bothOf(slope));
  store<f64>(sumsAt + 16, bothOf(bend));
}

/** Turns complex bins from `first` on (an even number) by `angle` times their number; a number of bins that two divides. */
export function turnBins(binsAt: usize, first: i32, bins: i32, angle: f64, outAt: usize): void {
  let re = f64x2(Math.cos(angle * first), Math.cos(angle * (first + 1)));
  let im = f64x2(Math.sin(angle * first), Math.sin(angle * (first + 1)));
  const byRe = f64x2.splat(Math.cos(2 * angle));
  const byIm = f64x2.splat(Math.sin(2 * angle));
  const end = outAt + ((2 * bins) as usize) * FLOAT;
  while (outAt < end) {
    const bin = v128.load(binsAt);
    const res = f32x4.demote_f64x2_zero(re);
    const ims = f32x4.demote_f64x2_zero(im);
    const along = f32x4.mul(bin, v128.shuffle<f32>(res, res, 0, 0, 1, 1));
    const across = f32x4.mul(v128.shuffle<f32>(bin, bin, 1, 0, 3, 2), v128.shuffle<f32>(ims, ims, 0, 0, 1, 1));
    v128.store(outAt, f32x4.add(along, f32x4.mul(across, f32x4(-1, 1, -1, 1))));
    const turned = f64x2.sub(f64x2.mul(re, byRe), f64x2.mul(im, byIm));
    im = f64x2.add(f64x2.mul(re, byIm), f64x2.mul(im, byRe));
    re = turned;
    binsAt += FOUR;
    outAt += FOUR;
  }
}

/** Two floats, each twice. */
@inline
function pairOf(at: usize): v128 {
  const pair = v128.load_zero<u64>(at);
  return v128.shuffle<f32>(pair, pair, 0, 0, 1, 1);
}

@inline
function bothOf(two: v128): f64 {
  return f64x2.extract_lane(two, 0) + f64x2.extract_lane(two, 1);
}

@inline
function powerAt(binsAt: usize, bin: i32): f64 {
  const at = binsAt + ((2 * bin) as usize) * FLOAT;
  const re = load<f32>(at) as f64;
  const im = load<f32>(at, FLOAT) as f64;
  return re * re + im * im;
}
