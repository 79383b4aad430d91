/** Sums and products of planes. See index.ts for what all loops have in common. */
import { FLOAT, FOUR, highestOf, sumOf } from './shared';

/** out = a · b, value by value; any count. */
export function multiply(aAt: usize, bAt: usize, outAt: usize, count: i32): void {
  const end = outAt + ((count & ~3) as usize) * FLOAT;
  while (outAt < end) {
    v128.store(outAt, f32x4.mul(v128.load(aAt), v128.load(bAt)));
    aAt += FOUR;
    bAt += FOUR;
    outAt += FOUR;
  }
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT)
    store<f32>(outAt + i, load<f32>(aAt + i) * load<f32>(bAt + i));
}

/** out += gain · a, value by value; any count. */
export function addScaled(aAt: usize, gain: f32, outAt: usize, count: i32): void {
  const end = outAt + ((count & ~3) as usize) * FLOAT;
  const sixteens = outAt + ((count & ~15) as usize) * FLOAT;
  const gains = f32x4.splat(gain);
  while (outAt < sixteens) {
    const first = f32x4.add(v128.load(outAt), f32x4.mul(v128.load(aAt), gains));
    const second = f32x4.add(v128.load(outAt, 16), f32x4.mul(v128.load(aAt, 16), gains));
    const third = f32x4.add(v128.load(outAt, 32), f32x4.mul(v128.load(aAt, 32), gains));
    const fourth = f32x4.add(v128.load(outAt, 48), f32x4.mul(v128.load(aAt, 48), gains));
    v128.store(outAt, first);
    v128.store(outAt, second, 16);
    v128.store(outAt, third, 32);
    v128.store(outAt, fourth, 48);
    aAt += 4 * FOUR;
    outAt += 4 * FOUR;
  }
  while (outAt < end) {
    v128.store(outAt, f32x4.add(v128.load(outAt), f32x4.mul(v128.load(aAt), gains)));
    aAt += FOUR;
    outAt += FOUR;
  }
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT)
    store<f32>(outAt + i, load<f32>(outAt + i) + load<f32>(aAt + i) * gain);
}

/** out = (a + b) / 2, value by value; any count. */
export function mean(aAt: usize, bAt: usize, outAt: usize, count: i32): void {
  const end = outAt + ((count & ~3) as usize) * FLOAT;
  const half = f32x4.splat(0.5);
  while (outAt < end) {
    v128.store(outAt, f32x4.mul(f32x4.add(v128.load(aAt), v128.load(bAt)), half));
    aAt += FOUR;
    bAt += FOUR;
    outAt += FOUR;
  }
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT)
    store<f32>(outAt + i, (load<f32>(aAt + i) + load<f32>(bAt + i)) * 0.5);
}

/** out += a · b, value by value; a count that four divides. */
export function addProducts(aAt: usize, bAt: usize, outAt: usize, count: i32): void {
  const end = outAt + (count as usize) * FLOAT;
  while (outAt < end) {
    v128.store(outAt, f32x4.add(v128.load(outAt), f32x4.mul(v128.load(aAt), v128.load(bAt))));
    aAt += FOUR;
    bAt += FOUR;
    outAt += FOUR;
  }
}

/** Multiplies values by a factor, in place; any count. */
export function scale(at: usize, factor: f32, count: i32): void {
  const end = at + ((count & ~3) as usize) * FLOAT;
  const factors = f32x4.splat(factor);
  for (; at < end; at += FOUR) v128.store(at, f32x4.mul(v128.load(at), factors));
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT) store<f32>(at + i, load<f32>(at + i) * factor);
}

/** out += a, each value held between −cap and cap; any count. */
export function addCapped(aAt: usize, cap: f32, outAt: usize, count: i32): void {
  const end = outAt + ((count & ~3) as usize) * FLOAT;
  const most = f32x4.splat(cap);
  const least = f32x4.splat(-cap);
  while (outAt < end) {
    const capped = f32x4.pmax(f32x4.pmin(v128.load(aAt), most), least);
    v128.store(outAt, f32x4.add(v128.load(outAt), capped));
    aAt += FOUR;
    outAt += FOUR;
  }
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT)
    store<f32>(outAt + i, load<f32>(outAt + i) + max(min(load<f32>(aAt + i), cap), -cap));
}

/** Returns where the first value of the greatest magnitude stands; any count but none. */
export function placeOfHighest(at: usize, count: i32): i32 {
  const most = highest(at, count);
  const sought = f32x4.splat(most);
  let place = 0;
  while (place + 4 <= count) {
    if (v128.any_true(f32x4.eq(f32x4.abs(v128.load(at)), sought))) break;
    at += FOUR;
    place += 4;
  }
  while (place < count - 1 && abs(load<f32>(at)) !== most) {
    at += FLOAT;
    place += 1;
  }
  return place;
}

/** Returns the sum of a · b; any count. */
export function dot(aAt: usize, bAt: usize, count: i32): f64 {
  const end = aAt + ((count & ~3) as usize) * FLOAT;
  let sums = f32x4.splat(0);
  let total: f64 = 0;
  let portion = 0;
  while (aAt < end) {
    sums = f32x4.add(sums, f32x4.mul(v128.load(aAt), v128.load(bAt)));
    aAt += FOUR;
    bAt += FOUR;
    portion += 1;
    if (portion === 256) {
      total += sumOf(sums);
      sums = f32x4.splat(0);
      portion = 0;
    }
  }
  total += sumOf(sums);
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT)
    total += (load<f32>(aAt + i) * load<f32>(bAt + i)) as f64;
  return total;
}

/** Returns the greatest magnitude; any count. */
export function highest(at: usize, count: i32): f32 {
  const end = at + ((count & ~3) as usize) * FLOAT;
  let found = f32x4.splat(0);
  for (; at < end; at += FOUR) found = f32x4.pmax(found, f32x4.abs(v128.load(at)));
  let most = highestOf(found);
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT) most = max(most, abs(load<f32>(at + i)));
  return most;
}
