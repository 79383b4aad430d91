/** Points between samples, for true peaks: see signal/oversampling.ts. See index.ts for what all loops have in common. */
import { FLOAT, FOUR } from './shared';

/** Taps of the filters that {@link peaksBetween} takes: of samples, and of halfway points. */
const SAMPLES: usize = 6;
const HALVES: usize = 7;

/**
 * out = what a filter of so many taps (a count that two divides, the oldest first) gives, value by value; the oldest sample of the first value
 * stands at `at`. Any count; up to three values more are written, and as many samples more are read.
 */
export function halfway(at: usize, count: i32, filterAt: usize, taps: i32, outAt: usize): void {
  const length = (taps as usize) * FLOAT;
  const end = (count as usize) * FLOAT;
  for (let i: usize = 0; i < end; i += FOUR) {
    let even = f32x4.splat(0);
    let odd = f32x4.splat(0);
    for (let tap: usize = 0; tap < length; tap += 2 * FLOAT) {
      even = f32x4.add(even, f32x4.mul(v128.load32_splat(filterAt + tap), v128.load(at + i + tap)));
      odd = f32x4.add(odd, f32x4.mul(v128.load32_splat(filterAt + tap, 4), v128.load(at + i + tap, 4)));
    }
    v128.store(outAt + i, f32x4.add(even, odd));
  }
}

/**
 * out = the greatest magnitude of: what is there, two neighbouring samples, the point halfway, and further points between them. Each of those
 * is computed from six samples (the two in the middle) and seven halfway points (the one in the middle) by a filter of thirteen taps. The
 * first of two samples of the first value stands at `at`, the first of its seven halfway points at `halvesAt`; any count.
 */
export function peaksBetween(
  at: usize,
  halvesAt: usize,
  count: i32,
  filtersAt: usize,
  filters: i32,
  outAt: usize,
): void {
  const length = (SAMPLES + HALVES) * FLOAT;
  const filtersEnd = filtersAt + (filters as usize) * length;
  const samplesAt = at - 2 * FLOAT;
  const fours = ((count & ~3) as usize) * FLOAT;
  const all = (count as usize) * FLOAT;
  for (let i: usize = 0; i < fours; i += FOUR) {
    const pair = f32x4.max(f32x4.abs(v128.load(at + i)), f32x4.abs(v128.load(at + i, 4)));
    let found = f32x4.max(f32x4.max(v128.load(outAt + i), pair), f32x4.abs(v128.load(halvesAt + i, 12)));
    for (let filterAt = filtersAt; filterAt < filtersEnd; filterAt += length) {
      let sum = f32x4.splat(0);
      let other = f32x4.splat(0);
      for (let tap: usize = 0; tap < SAMPLES * FLOAT; tap += FLOAT)
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(filterAt + tap), v128.load(samplesAt + i + tap)));
      for (let tap: usize = 0; tap < HALVES * FLOAT; tap += FLOAT)
        other = f32x4.add(
          other,
          f32x4.mul(v128.load32_splat(filterAt + tap, 24), v128.load(halvesAt + i + tap)),
        );
      found = f32x4.max(found, f32x4.abs(f32x4.add(sum, other)));
    }
    v128.store(outAt + i, found);
  }
  for (let i = fours; i < all; i += FLOAT) {
    let most = max(load<f32>(outAt + i), abs(load<f32>(halvesAt + i, 12)));
    most = max(most, max(abs(load<f32>(at + i)), abs(load<f32>(at + i, 4))));
    for (let filterAt = filtersAt; filterAt < filtersEnd; filterAt += length) {
      let sum: f32 = 0;
      for (let tap: usize = 0; tap < SAMPLES * FLOAT; tap += FLOAT)
        sum += load<f32>(filterAt + tap) * load<f32>(samplesAt + i + tap);
      for (let tap: usize = 0; tap < HALVES * FLOAT; tap += FLOAT)
        sum += load<f32>(filterAt + tap, 24) * load<f32>(halvesAt + i + tap);
      most = max(most, abs(sum));
    }
    store<f32>(outAt + i, most);
  }
}
