/**
 * Loops over many floats, four at a time (WebAssembly SIMD). AssemblyScript: `npm run kernels` compiles this file into
 * `../compiled.ts`. Arguments named `…At` are byte addresses of floats; counts are numbers of floats. Nothing here
 * allocates: whoever calls owns the memory.
 */

const FLOAT: usize = 4;
const FOUR: usize = 16;
/** A decibel as a natural logarithm of amplitude. */
const PER_DB: f64 = 0.11512925464970228;

/** Returns the address behind the tables that the loops need for themselves: whoever calls has the memory from there on. */
export function firstFree(): usize {
  return __heap_base;
}

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

/**
 * Filters two channels at once, in place and in doubles: a second-order section (b0 b1 b2 a1 a2) in the transposed direct
 * form II. Keeps two pairs of doubles at `stateAt`.
 */
export function filterPair(leftAt: usize, rightAt: usize, count: i32, sectionAt: usize, stateAt: usize): void {
  const b0 = v128.load64_splat(sectionAt);
  const b1 = v128.load64_splat(sectionAt + 8);
  const b2 = v128.load64_splat(sectionAt + 16);
  const a1 = v128.load64_splat(sectionAt + 24);
  const a2 = v128.load64_splat(sectionAt + 32);
  let s1 = v128.load(stateAt);
  let s2 = v128.load(stateAt + 16);
  const end = (count as usize) * FLOAT;
  for (let at: usize = 0; at < end; at += FLOAT) {
    const both = v128.load_lane<u32>(rightAt + at, v128.load_zero<u32>(leftAt + at), 1);
    const x = f64x2.promote_low_f32x4(both);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    const filtered = f32x4.demote_f64x2_zero(y);
    v128.store_lane<u32>(leftAt + at, filtered, 0);
    v128.store_lane<u32>(rightAt + at, filtered, 1);
  }
  v128.store(stateAt, s1);
  v128.store(stateAt + 16, s2);
}

/**
 * Compresses two channels together, in place (see signal/compressor.ts for what it does and where it is from). The doubles at
 * `settingsAt`: threshold (dB), 1 − 1 / ratio, knee (dB), the amplitude that is touched, what the attack and the release keep
 * of the reduction with each frame, make-up (dB). Takes and returns the reduction (dB).
 */
export function compress(leftAt: usize, rightAt: usize, count: i32, settingsAt: usize, reductionDb: f64): f64 {
  const thresholdDb = load<f64>(settingsAt);
  const slope = load<f64>(settingsAt + 8);
  const kneeDb = load<f64>(settingsAt + 16);
  const untouched = load<f64>(settingsAt + 24);
  const attack = load<f64>(settingsAt + 32);
  const release = load<f64>(settingsAt + 40);
  const makeUpDb = load<f64>(settingsAt + 48);
  const makeUp = Math.exp(makeUpDb * PER_DB);
  const end = (count as usize) * FLOAT;
  for (let at: usize = 0; at < end; at += FLOAT) {
    const left = load<f32>(leftAt + at) as f64;
    const right = load<f32>(rightAt + at) as f64;
    const peak = max(abs(left), abs(right));
    let gain = makeUp;
    if (peak > untouched || reductionDb > 0) {
      let wanted: f64 = 0;
      if (peak > untouched) {
        const over = Math.log(peak) / PER_DB - thresholdDb;
        const bent = over + kneeDb / 2;
        const isBent = kneeDb > 0 && 2 * over <= kneeDb;
        wanted = isBent ? (slope * bent * bent) / (2 * kneeDb) : max(slope * over, 0);
      }
      const keep = wanted > reductionDb ? attack : release;
      reductionDb = keep * reductionDb + (1 - keep) * wanted;
      if (reductionDb < 1e-6) reductionDb = 0;
      gain = Math.exp((makeUpDb - reductionDb) * PER_DB);
    }
    store<f32>(leftAt + at, (left * gain) as f32);
    store<f32>(rightAt + at, (right * gain) as f32);
  }
  return reductionDb;
}

/**
 * K-weights two channels at once, in doubles: a second-order section (b0 b1 b2 a1 a2), then a high-pass with the numerator
 * 1 −2 1 (c1 c2), each in the transposed direct form II. Keeps four pairs of doubles at `stateAt`, and writes the sum of the
 * squares of each channel to the two doubles at `powersAt`.
 */
export function kWeight(
  leftAt: usize,
  rightAt: usize,
  outLeftAt: usize,
  outRightAt: usize,
  count: i32,
  stateAt: usize,
  sectionsAt: usize,
  powersAt: usize,
): void {
  const b0 = v128.load64_splat(sectionsAt);
  const b1 = v128.load64_splat(sectionsAt + 8);
  const b2 = v128.load64_splat(sectionsAt + 16);
  const a1 = v128.load64_splat(sectionsAt + 24);
  const a2 = v128.load64_splat(sectionsAt + 32);
  const c1 = v128.load64_splat(sectionsAt + 40);
  const c2 = v128.load64_splat(sectionsAt + 48);
  let s1 = v128.load(stateAt);
  let s2 = v128.load(stateAt + 16);
  let h1 = v128.load(stateAt + 32);
  let h2 = v128.load(stateAt + 48);
  let power = f64x2.splat(0);
  const end = (count as usize) * FLOAT;
  for (let at: usize = 0; at < end; at += FLOAT) {
    const both = v128.load_lane<u32>(rightAt + at, v128.load_zero<u32>(leftAt + at), 1);
    const x = f64x2.promote_low_f32x4(both);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    const z = f64x2.add(y, h1);
    h1 = f64x2.sub(f64x2.sub(h2, f64x2.add(y, y)), f64x2.mul(c1, z));
    h2 = f64x2.sub(y, f64x2.mul(c2, z));
    const weighted = f32x4.demote_f64x2_zero(z);
    v128.store_lane<u32>(outLeftAt + at, weighted, 0);
    v128.store_lane<u32>(outRightAt + at, weighted, 1);
    power = f64x2.add(power, f64x2.mul(z, z));
  }
  v128.store(stateAt, s1);
  v128.store(stateAt + 16, s2);
  v128.store(stateAt + 32, h1);
  v128.store(stateAt + 48, h2);
  v128.store(powersAt, power);
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

/** Returns the greatest power of the complex bins of a spectrum; a count that four divides. */
export function strongestPower(binsAt: usize, count: i32): f32 {
  const end = binsAt + (count as usize) * FLOAT;
  let strongest = f32x4.splat(0);
  for (; binsAt < end; binsAt += FOUR) strongest = f32x4.max(strongest, powersOf(v128.load(binsAt)));
  const pair = f32x4.max(strongest, v128.shuffle<f32>(strongest, strongest, 2, 3, 0, 1));
  return f32x4.extract_lane(pair, 0);
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

/** out = conj(a) · b, bin by complex bin; a count that four divides. */
export function crossSpectrum(aAt: usize, bAt: usize, outAt: usize, count: i32): void {
  const end = outAt + (count as usize) * FLOAT;
  const alternating = f32x4(1, -1, 1, -1);
  while (outAt < end) {
    const a = v128.load(aAt);
    const b = v128.load(bAt);
    const real = v128.shuffle<f32>(a, a, 0, 0, 2, 2);
    const imaginary = f32x4.mul(v128.shuffle<f32>(a, a, 1, 1, 3, 3), alternating);
    const crossed = v128.shuffle<f32>(b, b, 1, 0, 3, 2);
    v128.store(outAt, f32x4.add(f32x4.mul(real, b), f32x4.mul(imaginary, crossed)));
    aAt += FOUR;
    bAt += FOUR;
    outAt += FOUR;
  }
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
 * gain leaves unexplained there, smoothed over two bins to each side, for which zeros stand before and after the bins.
 * Adds Σ weight · cross and Σ weight · own to the two doubles at `sumsAt`.
 */
export function fitGain(ownAt: usize, wholeAt: usize, crossAt: usize, bins: i32, gain: f32, sumsAt: usize): void {
  const end = (bins as usize) * FLOAT;
  const twice = f32x4.splat(2 * gain);
  const squared = f32x4.splat(gain * gain);
  const share = f32x4.splat(1e-5);
  const least = f32x4.splat(1e-7);
  let top = f32x4.splat(0);
  let bottom = f32x4.splat(0);
  for (let at: usize = 0; at < end; at += FOUR) {
    const own = fiveAround(ownAt + at);
    const whole = fiveAround(wholeAt + at);
    const cross = fiveAround(crossAt + at);
    const rest = f32x4.add(f32x4.sub(whole, f32x4.mul(twice, cross)), f32x4.mul(squared, own));
    const weight = f32x4.div(f32x4.splat(1), f32x4.add(f32x4.max(rest, f32x4.mul(share, whole)), least));
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
function powersOf(bins: v128): v128 {
  const squares = f32x4.mul(bins, bins);
  return f32x4.add(squares, v128.shuffle<f32>(squares, squares, 1, 0, 3, 2));
}

@inline
function sumOf(four: v128): f64 {
  return (
    (f32x4.extract_lane(four, 0) as f64) +
    (f32x4.extract_lane(four, 1) as f64) +
    (f32x4.extract_lane(four, 2) as f64) +
    (f32x4.extract_lane(four, 3) as f64)
  );
}
