/** Filters and the compressor, for two channels at once in doubles, and a sound read between its samples. See index.ts for what all loops have in common. */
import { FLOAT, FOUR, sumOf } from './shared';

/** A decibel as a natural logarithm of amplitude. */
const PER_DB: f64 = 0.11512925464970228;

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
    const x = bothOf(leftAt + at, rightAt + at);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    storeBoth(y, leftAt + at, rightAt + at);
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
    const x = bothOf(leftAt + at, rightAt + at);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    const z = f64x2.add(y, h1);
    h1 = f64x2.sub(f64x2.sub(h2, f64x2.add(y, y)), f64x2.mul(c1, z));
    h2 = f64x2.sub(y, f64x2.mul(c2, z));
    storeBoth(z, outLeftAt + at, outRightAt + at);
    power = f64x2.add(power, f64x2.mul(z, z));
  }
  v128.store(stateAt, s1);
  v128.store(stateAt + 16, s2);
  v128.store(stateAt + 32, h1);
  v128.store(stateAt + 48, h2);
  v128.store(powersAt, power);
}

/** A float of each side, as doubles. */
@inline
function bothOf(leftAt: usize, rightAt: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load_lane<u32>(rightAt, v128.load_zero<u32>(leftAt), 1));
}

@inline
function storeBoth(both: v128, leftAt: usize, rightAt: usize): void {
  const floats = f32x4.demote_f64x2_zero(both);
  v128.store_lane<u32>(leftAt, floats, 0);
  v128.store_lane<u32>(rightAt, floats, 1);
}

/**
 * Reads a sound at places that need not be whole: for each value from number `first` on at `start + number · step`, counted from a frame that lies `before`
 * frames earlier than `soundAt`. A place is read by the weights of the phase before it and of the one after, blended; `tableAt` holds the weights of each of
 * so many phases and of one more, `taps` each (a count that four divides), of which the first belongs to the sample `taps` / 2 − 1 before the place.
 */
export function interpolate(
  soundAt: usize,
  before: f64,
  start: f64,
  step: f64,
  first: f64,
  count: i32,
  tableAt: usize,
  phases: i32,
  taps: i32,
  outAt: usize,
): void {
  const row = (taps as usize) * FLOAT;
  for (let i = 0; i < count; i++) {
    // The same to the last bit wherever the sound begins that is held.
    const place = start + (first + (i as f64)) * step - before;
    const whole = Math.floor(place);
    const within = (place - whole) * (phases as f64);
    const phase = Math.floor(within);
    const share = (within - phase) as f32;
    const from = soundAt + ((whole as i32) - taps / 2 + 1) * (FLOAT as i32);
    const weights = tableAt + (phase as usize) * row;
    let here = f32x4.splat(0);
    let next = f32x4.splat(0);
    for (let tap: usize = 0; tap < row; tap += FOUR) {
      const samples = v128.load(from + tap);
      here = f32x4.add(here, f32x4.mul(samples, v128.load(weights + tap)));
      next = f32x4.add(next, f32x4.mul(samples, v128.load(weights + row + tap)));
    }
    const before = sumOf(here);
    store<f32>(outAt, (before + (share as f64) * (sumOf(next) - before)) as f32);
    outAt += FLOAT;
  }
}
