import { fromDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { shareOf } from './levelSwitch.ts';
import { LIMITER_FRAMES, LIMITER_RAMP_FRAMES as RAMP_FRAMES } from './limiterFrames.ts';
import { HEADROOM } from './oversampling.ts';
import { PEAK_HISTORY, PEAK_PORTION, peakRoom } from './peaks.ts';

const { abs, max, min } = Math;

/** How a limiter works. */
export interface LimiterSettings {
  /** No true peak is above this (dBTP). */
  ceilingDbtp: number;
  releaseMs: number;
}

/** A gain that a peak asked for is held until the peak is through. */
const HOLD_FRAMES = LIMITER_FRAMES + PEAK_HISTORY;
/** Peaks are held under the ceiling by what an oversampled peak may be read too low (dB). */
export const MARGIN_DB = 0.14;
/** After so many calm frames no peak is held any more, and the ramp has gone through. */
const SETTLED_FRAMES = HOLD_FRAMES + RAMP_FRAMES + PEAK_HISTORY;
/** A gain this near to 1 is let go whole (−0.0001 dB). */
const ALMOST_ONE = 1 - 1e-5;

/**
 * A look-ahead limiter that holds the true peak, both sides together. Each frame asks for the gain that brings the peak
 * round it (oversampled, as the true peak meter does it) under the ceiling; the smallest gain asked for is held over the
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
  private readonly ramp = new Float64Array(RAMP_FRAMES).fill(1);
  /** The gains asked for lately that none after them is below, and when: a queue that only rises, its first the smallest. */
  private readonly asked = new Float64Array(HOLD_FRAMES);
  private readonly askedAt = new Float64Array(HOLD_FRAMES);
  private first = 0;
  private count = 0;
  private time = 0;
  private held = 1;
  private sum = RAMP_FRAMES;
  private at = 0;
  private rampAt = 0;
  private quiet = LIMITER_FRAMES;

  constructor({ ceilingDbtp, releaseMs }: LimiterSettings, sampleRate: number) {
    this.ceiling = fromDb(ceilingDbtp - MARGIN_DB);
    this.harmless = this.ceiling / HEADROOM;
    this.release = shareOf(releaseMs, sampleRate);
    this.delayed = [new Float32Array(LIMITER_FRAMES), new Float32Array(LIMITER_FRAMES)];
  }

  /** Tells whether silence comes out as long as silence goes in. */
  get isAtRest(): boolean {
    return this.quiet >= LIMITER_FRAMES;
  }

  /** Limits both sides in place; what comes out is {@link LIMITER_FRAMES} late. */
  process([left, right]: Stereo, start: number, end: number): void {
    for (let from = start; from < end; from += PEAK_PORTION) {
      const to = min(end, from + PEAK_PORTION);
      if (this.rests(left, right, from, to)) this.delay(left, right, from, to);
      else this.limit(left, right, from, to);
    }
  }

  /** Finds the peaks of both sides together; where none can be above the ceiling, they are 0. */
  private findPeaks(left: Float32Array, right: Float32Array, start: number, end: number): Float32Array {
    const room = peakRoom();
    const frames = end - start;
    room.peaks.fill(0, 0, frames);
    for (let side = 0; side < 2; side++) {
      const plane = side === 0 ? left : right;
      const old = this.delayed[side];
      for (let i = 0; i < PEAK_HISTORY; i++)
        room.samples[i] = old[(this.at + LIMITER_FRAMES - PEAK_HISTORY + i) % LIMITER_FRAMES];
      for (let i = 0; i < frames; i++) room.samples[PEAK_HISTORY + i] = plane[start + i];
      room.raise(frames, this.ceiling);
    }
    return room.peaks;
  }

  /**
   * All in one, with everything in local variables: a number that goes from function to function may be put on the heap, and
   * this is done for every frame on the audio thread.
   */
  private limit(left: Float32Array, right: Float32Array, start: number, end: number): void {
    const { ceiling, harmless, release, ramp, asked, askedAt } = this;
    const [oldLeft, oldRight] = this.delayed;
    const peaks = this.findPeaks(left, right, start, end);
    let { calm, first, count, time, held, sum, at, rampAt, quiet } = this;
    for (let i = start; i < end; i++) {
      const nowLeft = left[i];
      const nowRight = right[i];
      calm = max(abs(nowLeft), abs(nowRight)) > harmless ? 0 : calm + 1;
      let gain = 1;
      if (calm > SETTLED_FRAMES && held > ALMOST_ONE) {
        // Nothing was near the ceiling for so long that no gain below 1 is left anywhere.
        if (held !== 1) {
          held = 1;
          sum = RAMP_FRAMES;
          ramp.fill(1);
          count = 0;
        }
      } else {
        const peak = peaks[i - start];
        const wanted = peak > ceiling ? ceiling / peak : 1;
        if (count > 0 && askedAt[first] <= time - HOLD_FRAMES) {
          first = (first + 1) % HOLD_FRAMES;
          count -= 1;
        }
        while (count > 0 && asked[(first + count - 1) % HOLD_FRAMES] >= wanted) count -= 1;
        const place = (first + count) % HOLD_FRAMES;
        asked[place] = wanted;
        askedAt[place] = time;
        count += 1;
        time += 1;
        const least = asked[first];
        held = least < held ? least : held + release * (least - held);
        sum += held - ramp[rampAt];
        ramp[rampAt] = held;
        rampAt = rampAt + 1 === RAMP_FRAMES ? 0 : rampAt + 1;
        gain = min(1, sum / RAMP_FRAMES);
      }
      quiet = nowLeft === 0 && nowRight === 0 ? quiet + 1 : 0;
      left[i] = oldLeft[at] * gain;
      right[i] = oldRight[at] * gain;
      oldLeft[at] = nowLeft;
      oldRight[at] = nowRight;
      at = at + 1 === LIMITER_FRAMES ? 0 : at + 1;
    }
    this.calm = calm;
    this.first = first;
    this.count = count;
    this.time = time;
    this.held = held;
    this.sum = sum;
    this.at = at;
    this.rampAt = rampAt;
    this.quiet = quiet;
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
  }
}
