import type { Stereo } from '../engine/planes.ts';
import { fromDb } from './decibel.ts';
import { LIMITER_FRAMES, LIMITER_RAMP_FRAMES as RAMP_FRAMES } from './latency.ts';
import { shareOf } from './levelSwitch.ts';
import { HEADROOM, PHASES, TAPS } from './oversampling.ts';

const { abs, max, min } = Math;

/** How a limiter works. */
export interface LimiterSettings {
  /** No true peak is above this (dBTP). */
  ceilingDbtp: number;
  releaseMs: number;
}

/** A gain that a peak asked for is held until the peak is through. */
const HOLD_FRAMES = LIMITER_FRAMES + TAPS;
/** A four-times oversampled peak can be read this much too low near the top of the band (dB). */
const MARGIN_DB = 0.1;
/** After so many calm frames no peak is held any more, and the ramp has gone through. */
const SETTLED_FRAMES = HOLD_FRAMES + RAMP_FRAMES + TAPS;
/** A gain this near to 1 is let go whole (−0.0001 dB). */
const ALMOST_ONE = 1 - 1e-5;

/**
 * A look-ahead limiter that holds the true peak, both sides together. Each frame asks for the gain that brings the peak
 * round it (four-times oversampled, ITU-R BS.1770-5 Annex 2) under the ceiling; the smallest gain asked for is held over the
 * look-ahead (a sliding minimum), let go with the release's time constant, and smoothed by a mean over the ramp, which never
 * lies above what was asked for. (As in: Giannoulis, Massberg and Reiss, JAES 60, 2012, with a finite attack.)
 */
export class Limiter {
  private readonly ceiling: number;
  /** No amplitude up to this can make a peak above the ceiling. */
  private readonly harmless: number;
  /** How many frames ago the last amplitude came that was not harmless. */
  private calm = SETTLED_FRAMES;
  private readonly release: number;
  private readonly delayed: readonly [Float32Array, Float32Array];
  private readonly newest: readonly [Float64Array, Float64Array];
  private readonly ramp = new Float64Array(RAMP_FRAMES).fill(1);
  private readonly minimum = new SlidingMinimum(HOLD_FRAMES);
  private held = 1;
  private sum = RAMP_FRAMES;
  private at = 0;
  private rampAt = 0;
  private tapAt = 0;
  private quiet = LIMITER_FRAMES;

  constructor({ ceilingDbtp, releaseMs }: LimiterSettings, sampleRate: number) {
    this.ceiling = fromDb(ceilingDbtp - MARGIN_DB);
    this.harmless = this.ceiling / HEADROOM;
    this.release = shareOf(releaseMs, sampleRate);
    this.delayed = [new Float32Array(LIMITER_FRAMES), new Float32Array(LIMITER_FRAMES)];
    this.newest = [new Float64Array(2 * TAPS), new Float64Array(2 * TAPS)];
  }

  /** Tells whether silence comes out as long as silence goes in. */
  get isAtRest(): boolean {
    return this.quiet >= LIMITER_FRAMES;
  }

  /** Limits both sides in place; what comes out is {@link LIMITER_FRAMES} late. */
  process([left, right]: Stereo, start: number, end: number): void {
    if (this.rests(left, right, start, end)) {
      this.delay(left, right, start, end);
      return;
    }
    const [oldLeft, oldRight] = this.delayed;
    for (let i = start; i < end; i++) {
      const gain = this.gainFor(left[i], right[i]);
      const { at } = this;
      const leavingLeft = oldLeft[at];
      const leavingRight = oldRight[at];
      this.quiet = left[i] === 0 && right[i] === 0 ? this.quiet + 1 : 0;
      oldLeft[at] = left[i];
      oldRight[at] = right[i];
      left[i] = leavingLeft * gain;
      right[i] = leavingRight * gain;
      this.at = at + 1 === LIMITER_FRAMES ? 0 : at + 1;
    }
  }

  /** Tells whether nothing has to be turned down from `start` up to `end`, or for what came before. */
  private rests(left: Float32Array, right: Float32Array, start: number, end: number): boolean {
    if (this.calm <= SETTLED_FRAMES || this.held !== 1) return false;
    const { harmless } = this;
    for (let i = start; i < end; i++) if (abs(left[i]) > harmless || abs(right[i]) > harmless) return false;
    return true;
  }

  /** Lets sound through late, and else as it is. */
  private delay(left: Float32Array, right: Float32Array, start: number, end: number): void {
    const [oldLeft, oldRight] = this.delayed;
    let { at, quiet } = this;
    for (let i = start; i < end; i++) {
      const leavingLeft = oldLeft[at];
      const leavingRight = oldRight[at];
      quiet = left[i] === 0 && right[i] === 0 ? quiet + 1 : 0;
      oldLeft[at] = left[i];
      oldRight[at] = right[i];
      left[i] = leavingLeft;
      right[i] = leavingRight;
      at = at + 1 === LIMITER_FRAMES ? 0 : at + 1;
    }
    this.at = at;
    this.quiet = quiet;
    this.calm += end - start;
    for (let i = 0; i < TAPS; i++) {
      const newest = (at + LIMITER_FRAMES - TAPS + i) % LIMITER_FRAMES;
      this.keep(oldLeft[newest], oldRight[newest]);
    }
  }

  private gainFor(left: number, right: number): number {
    this.keep(left, right);
    this.calm = max(abs(left), abs(right)) > this.harmless ? 0 : this.calm + 1;
    if (this.calm > SETTLED_FRAMES && this.held > ALMOST_ONE) return this.rest();
    const peak = this.calm < TAPS ? this.peak() : 0;
    const asked = this.minimum.next(peak > this.ceiling ? this.ceiling / peak : 1);
    this.held = asked < this.held ? asked : this.held + this.release * (asked - this.held);
    const { ramp, rampAt } = this;
    this.sum += this.held - ramp[rampAt];
    ramp[rampAt] = this.held;
    this.rampAt = rampAt + 1 === RAMP_FRAMES ? 0 : rampAt + 1;
    return min(1, this.sum / RAMP_FRAMES);
  }

  /** Lets all through: nothing was near the ceiling for so long that no gain below 1 is left anywhere. */
  private rest(): number {
    if (this.held !== 1) {
      this.held = 1;
      this.sum = RAMP_FRAMES;
      this.ramp.fill(1);
      this.minimum.clear();
    }
    return 1;
  }

  /** Keeps the newest samples, twice, so that they always lie in a row. */
  private keep(left: number, right: number): void {
    const { newest, tapAt } = this;
    newest[0][tapAt] = left;
    newest[0][tapAt + TAPS] = left;
    newest[1][tapAt] = right;
    newest[1][tapAt + TAPS] = right;
    this.tapAt = tapAt + 1 === TAPS ? 0 : tapAt + 1;
  }

  /** The true peak among the newest samples. */
  private peak(): number {
    const { newest, tapAt } = this;
    return max(peakOf(newest[0], tapAt, this.ceiling), peakOf(newest[1], tapAt, this.ceiling));
  }
}

/** The true peak among {@link TAPS} samples from an index on, the oldest first; what cannot pass the ceiling is not looked at. */
function peakOf(samples: Float64Array, from: number, ceiling: number): number {
  let peak = 0;
  for (let i = from; i < from + TAPS; i++) peak = max(peak, abs(samples[i]));
  if (peak * HEADROOM <= ceiling) return peak;
  const newest = from + TAPS - 1;
  for (let phase = 0; phase < PHASES.length; phase++) {
    const taps = PHASES[phase];
    let sum = 0;
    for (let tap = 0; tap < TAPS; tap++) sum += taps[tap] * samples[newest - tap];
    peak = max(peak, abs(sum));
  }
  return peak;
}

/** The smallest of the last so many values, in constant time a value (a queue that only rises). */
class SlidingMinimum {
  private readonly span: number;
  private readonly values: Float64Array;
  private readonly times: Float64Array;
  private first = 0;
  private count = 0;
  private time = 0;

  constructor(span: number) {
    this.span = span;
    this.values = new Float64Array(span);
    this.times = new Float64Array(span);
  }

  /** Forgets what came; time goes on. */
  clear(): void {
    this.count = 0;
  }

  next(value: number): number {
    const { span, values, times } = this;
    if (this.count > 0 && times[this.first] <= this.time - span) {
      this.first = (this.first + 1) % span;
      this.count -= 1;
    }
    while (this.count > 0 && values[(this.first + this.count - 1) % span] >= value) this.count -= 1;
    const place = (this.first + this.count) % span;
    values[place] = value;
    times[place] = this.time;
    this.count += 1;
    this.time += 1;
    return values[this.first];
  }
}
