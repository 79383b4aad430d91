/** Two planes at once: what is interleaved is dealt out, and what is mixed is added. See index.ts for what all loops have in common. */
import { addScaled } from './floats';
import { FLOAT, FOUR } from './shared';

/** Deals interleaved pairs of 16-bit integers out to two planes of floats, times a scale; any count of pairs. */
export function unpackPairs(packedAt: usize, count: i32, scale: f32, leftAt: usize, rightAt: usize): void {
  const scales = f32x4.splat(scale);
  const end = leftAt + ((count & ~3) as usize) * FLOAT;
  while (leftAt < end) {
    const packed = v128.load(packedAt);
    const left = i32x4.shr_s(i32x4.shl(packed, 16), 16);
    const right = i32x4.shr_s(packed, 16);
    v128.store(leftAt, f32x4.mul(f32x4.convert_i32x4_s(left), scales));
    v128.store(rightAt, f32x4.mul(f32x4.convert_i32x4_s(right), scales));
    packedAt += FOUR;
    leftAt += FOUR;
    rightAt += FOUR;
  }
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT) {
    store<f32>(leftAt + i, (load<i16>(packedAt + i) as f32) * scale);
    store<f32>(rightAt + i, (load<i16>(packedAt + i + 2) as f32) * scale);
  }
}

/** Deals interleaved pairs of floats out to two planes; any count of pairs. */
export function dealPairs(packedAt: usize, count: i32, leftAt: usize, rightAt: usize): void {
  const end = leftAt + ((count & ~3) as usize) * FLOAT;
  while (leftAt < end) {
    const first = v128.load(packedAt);
    const second = v128.load(packedAt, 16);
    v128.store(leftAt, v128.shuffle<f32>(first, second, 0, 2, 4, 6));
    v128.store(rightAt, v128.shuffle<f32>(first, second, 1, 3, 5, 7));
    packedAt += 2 * FOUR;
    leftAt += FOUR;
    rightAt += FOUR;
  }
  for (let i: usize = 0; i < ((count & 3) as usize) * FLOAT; i += FLOAT) {
    store<f32>(leftAt + i, load<f32>(packedAt + 2 * i));
    store<f32>(rightAt + i, load<f32>(packedAt + 2 * i + FLOAT));
  }
}

/**
 * Writes two planes of floats as interleaved whole numbers of 24 bits, which stand in the upper part of 32: rounded to the nearest, upwards from the
 * middle, and held at full scale; a count of pairs that four divides.
 */
export function wholePairs(leftAt: usize, rightAt: usize, count: i32, outAt: usize): void {
  const end = leftAt + (count as usize) * FLOAT;
  while (leftAt < end) {
    const left = i32x4.shl(wholesOf(v128.load(leftAt)), 8);
    const right = i32x4.shl(wholesOf(v128.load(rightAt)), 8);
    v128.store(outAt, v128.shuffle<i32>(left, right, 0, 4, 1, 5));
    v128.store(outAt, v128.shuffle<i32>(left, right, 2, 6, 3, 7), 16);
    leftAt += FOUR;
    rightAt += FOUR;
    outAt += 2 * FOUR;
  }
}

/** The same as {@link wholePairs} as three bytes each, the lowest first; four bytes behind the last are overwritten. */
export function packPairs(leftAt: usize, rightAt: usize, count: i32, outAt: usize): void {
  const end = leftAt + (count as usize) * FLOAT;
  while (leftAt < end) {
    const left = wholesOf(v128.load(leftAt));
    const right = wholesOf(v128.load(rightAt));
    v128.store(outAt, threeBytesOf(v128.shuffle<i32>(left, right, 0, 4, 1, 5)));
    v128.store(outAt, threeBytesOf(v128.shuffle<i32>(left, right, 2, 6, 3, 7)), 12);
    leftAt += FOUR;
    rightAt += FOUR;
    outAt += 24;
  }
}

/** Four floats as whole numbers of 24 bits. */
@inline
function wholesOf(four: v128): v128 {
  const scaled = f32x4.floor(f32x4.add(f32x4.mul(four, f32x4.splat(8388608)), f32x4.splat(0.5)));
  return i32x4.trunc_sat_f32x4_s(
    f32x4.min(f32x4.max(scaled, f32x4.splat(-8388608)), f32x4.splat(8388607)),
  );
}

/** The three lower bytes of each of four whole numbers; the last four bytes are nought. */
@inline
function threeBytesOf(four: v128): v128 {
  return v128.swizzle(four, i8x16(0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1));
}

/** out += gain · a for two planes at once, which may lie anywhere; any count. */
export function addPair(
  leftAt: usize,
  rightAt: usize,
  gain: f32,
  outLeftAt: usize,
  outRightAt: usize,
  count: i32,
): void {
  addScaled(leftAt, gain, outLeftAt, count);
  addScaled(rightAt, gain, outRightAt, count);
}
