/**
 * Loops over one frame of spectra (complex bins: real, imaginary, …) of a mix of two sides and of a sound of two parts, to fit the one to the other.
 * Counts are numbers of bins, which two divides. See index.ts for what all loops have in common.
 */
import { FLOAT, FOUR } from './shared';

/** Bytes of a double. */
const DOUBLE: usize = 8;

/** out = the power of mix − gain · sound of both sides together, for each bin. */
export function restOfPair(
  leftAt: usize,
  rightAt: usize,
  soundLeftAt: usize,
  soundRightAt: usize,
  gain: f32,
  outAt: usize,
  bins: i32,
): void {
  const gains = f32x4.splat(gain);
  const end = outAt + (bins as usize) * FLOAT;
  while (outAt < end) {
    const left = f32x4.sub(v128.load(leftAt), f32x4.mul(gains, v128.load(soundLeftAt)));
    const right = f32x4.sub(v128.load(rightAt), f32x4.mul(gains, v128.load(soundRightAt)));
    const power = f32x4.add(f32x4.mul(left, left), f32x4.mul(right, right));
    v128.store64_lane(outAt, pairSums(power), 0);
    leftAt += FOUR;
    rightAt += FOUR;
    soundLeftAt += FOUR;
    soundRightAt += FOUR;
    outAt += 2 * FLOAT;
  }
}

/**
 * Adds what both parts of a sound have of themselves and share with each other and with both sides of a mix, each bin by its weight. At `sumsAt` are
 * twelve lists of a double for each bin: the powers of the parts (weight · gain²), what they share (real, imaginary); then for each side what the
 * first part shares with it (weight · gain; real, imaginary), and the second.
 */
export function addFitSums(
  leftAt: usize,
  rightAt: usize,
  firstAt: usize,
  secondAt: usize,
  weightsAt: usize,
  gain: f32,
  bins: i32,
  sumsAt: usize,
): void {
  const list = (bins as usize) * DOUBLE;
  const gains = f32x4.splat(gain);
  const end = weightsAt + (bins as usize) * FLOAT;
  while (weightsAt < end) {
    const two = v128.load64_zero(weightsAt);
    const shared = f32x4.mul(gains, v128.shuffle<f32>(two, two, 0, 0, 1, 1));
    const own = f32x4.mul(gains, shared);
    const first = v128.load(firstAt);
    const second = v128.load(secondAt);
    const weighted = f32x4.mul(own, first);
    addTo(sumsAt, pairSums(f32x4.mul(weighted, first)));
    addTo(sumsAt + list, pairSums(f32x4.mul(f32x4.mul(own, second), second)));
    addTo(sumsAt + 2 * list, pairSums(f32x4.mul(weighted, second)));
    addTo(sumsAt + 3 * list, pairDifferences(f32x4.mul(weighted, turned(second))));
    addShared(f32x4.mul(shared, v128.load(leftAt)), first, second, sumsAt + 4 * list, list);
    addShared(f32x4.mul(shared, v128.load(rightAt)), first, second, sumsAt + 8 * list, list);
    leftAt += FOUR;
    rightAt += FOUR;
    firstAt += FOUR;
    secondAt += FOUR;
    weightsAt += 2 * FLOAT;
    sumsAt += 2 * DOUBLE;
  }
}

@inline
function addShared(side: v128, first: v128, second: v128, sumsAt: usize, list: usize): void {
  addTo(sumsAt, pairSums(f32x4.mul(first, side)));
  addTo(sumsAt + list, pairDifferences(f32x4.mul(first, turned(side))));
  addTo(sumsAt + 2 * list, pairSums(f32x4.mul(second, side)));
  addTo(sumsAt + 3 * list, pairDifferences(f32x4.mul(second, turned(side))));
}

/**
 * out = first · c1 + second · c2, as complex numbers. At `coloursAt` are four lists like the spectra: of c1 the real part twice for each bin, then the
 * imaginary part, negative and as it is; and the same of c2.
 */
export function colourIn(firstAt: usize, secondAt: usize, coloursAt: usize, outAt: usize, bins: i32): void {
  const list = 2 * (bins as usize) * FLOAT;
  const end = outAt + list;
  while (outAt < end) {
    const first = v128.load(firstAt);
    const second = v128.load(secondAt);
    const one = f32x4.add(
      f32x4.mul(v128.load(coloursAt), first),
      f32x4.mul(v128.load(coloursAt + list), turned(first)),
    );
    const other = f32x4.add(
      f32x4.mul(v128.load(coloursAt + 2 * list), second),
      f32x4.mul(v128.load(coloursAt + 3 * list), turned(second)),
    );
    v128.store(outAt, f32x4.add(one, other));
    firstAt += FOUR;
    secondAt += FOUR;
    coloursAt += FOUR;
    outAt += FOUR;
  }
}

/** Adds to two doubles what a side of a mix and a sound share, and the power of the sound, each bin by its weight. */
export function addLevelSums(mixAt: usize, soundAt: usize, weightsAt: usize, bins: i32, sumsAt: usize): void {
  let shared = f64x2.splat(0);
  let own = f64x2.splat(0);
  const end = weightsAt + (bins as usize) * FLOAT;
  while (weightsAt < end) {
    const two = v128.load64_zero(weightsAt);
    const sound = v128.load(soundAt);
    const weighted = f32x4.mul(v128.shuffle<f32>(two, two, 0, 0, 1, 1), sound);
    shared = f64x2.add(shared, f64x2.promote_low_f32x4(pairSums(f32x4.mul(weighted, v128.load(mixAt)))));
    own = f64x2.add(own, f64x2.promote_low_f32x4(pairSums(f32x4.mul(weighted, sound))));
    mixAt += FOUR;
    soundAt += FOUR;
    weightsAt += 2 * FLOAT;
  }
  store<f64>(sumsAt, load<f64>(sumsAt) + f64x2.extract_lane(shared, 0) + f64x2.extract_lane(shared, 1));
  store<f64>(
    sumsAt,
    load<f64>(sumsAt, DOUBLE) + f64x2.extract_lane(own, 0) + f64x2.extract_lane(own, 1),
    DOUBLE,
  );
}

/** Each of two bins: the sum of its parts, in the first two places. */
@inline
function pairSums(bins: v128): v128 {
  return f32x4.add(v128.shuffle<f32>(bins, bins, 0, 2, 0, 2), v128.shuffle<f32>(bins, bins, 1, 3, 1, 3));
}

/** Each of two bins: its first part without its second. */
@inline
function pairDifferences(bins: v128): v128 {
  return f32x4.sub(v128.shuffle<f32>(bins, bins, 0, 2, 0, 2), v128.shuffle<f32>(bins, bins, 1, 3, 1, 3));
}

/** Both parts of each bin exchanged. */
@inline
function turned(bins: v128): v128 {
  return v128.shuffle<f32>(bins, bins, 1, 0, 3, 2);
}

@inline
function addTo(sumAt: usize, two: v128): void {
  v128.store(sumAt, f64x2.add(v128.load(sumAt), f64x2.promote_low_f32x4(two)));
}
