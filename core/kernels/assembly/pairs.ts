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
