import { Kernels } from '../kernels/kernels.ts';
import {
  FINE_FILTERS,
  FINE_HEADROOM,
  FINE_POINTS,
  HALF_FILTER,
  HALF_TAPS,
  HEADROOM,
  NEAR_HALVES,
  NEAR_SAMPLES,
  SAMPLES_AFTER,
  SAMPLES_BEFORE,
} from './oversampling.ts';

const { max, min } = Math;

/** So many samples before the first one are needed, and so many can be looked at at a time. */
export const PEAK_HISTORY = SAMPLES_BEFORE + SAMPLES_AFTER - 1;
export const PEAK_PORTION = 1024;
/** A peak is found when so many samples after it are there. */
export const PEAK_FRAMES = SAMPLES_AFTER;
/** Samples are looked at in stretches: those with nothing high in them are passed over. */
const STRETCH = 64;
/** And, once the points halfway are there, in shorter ones. */
const SHORT_STRETCH = 16;
const FINE_TAPS = NEAR_SAMPLES + NEAR_HALVES;
const BYTES = Float32Array.BYTES_PER_ELEMENT;
const SPARE = 16;

/**
 * Where peaks between samples are looked for: samples are put into {@link samples} (those of before first, {@link PEAK_HISTORY} of them), and
 * {@link peaks} holds what was found. Shared by all who work in a thread, one after the other; nothing is allocated while it is used.
 */
export class PeakRoom {
  private readonly kernels = new Kernels(
    PEAK_HISTORY + 2 * PEAK_PORTION + STRETCH + HALF_TAPS + FINE_POINTS * FINE_TAPS + 8 * SPARE,
  );
  readonly samples = this.kernels.floats(PEAK_HISTORY + PEAK_PORTION + SPARE);
  readonly peaks = this.kernels.floats(PEAK_PORTION);
  private readonly samplesAt = this.samples.byteOffset;
  private readonly peaksAt = this.peaks.byteOffset;
  private readonly halvesAt = this.kernels.floats(STRETCH + NEAR_HALVES + SPARE).byteOffset;
  private readonly halfAt = this.kernels.copyOf(Float32Array.from(HALF_FILTER)).byteOffset;
  private readonly fineAt = this.kernels.copyOf(
    Float32Array.from(FINE_FILTERS.flatMap((taps) => [...taps])),
  ).byteOffset;

  /** The greatest magnitude of so many new samples and of those before them. */
  highest(frames: number): number {
    return this.kernels.loops.highest(this.samplesAt, PEAK_HISTORY + frames);
  }

  /**
   * Raises each value of {@link peaks} to the greatest magnitude around a sample that is {@link PEAK_FRAMES} frames old then. Stretches
   * in which nothing can be above a limit are left as they are.
   */
  raise(frames: number, limit: number): void {
    const { loops } = this.kernels;
    for (let from = 0; from < frames; from += STRETCH) {
      const count = min(STRETCH, frames - from);
      const at = this.samplesAt + from * BYTES;
      if (loops.highest(at, PEAK_HISTORY + count) * HEADROOM <= limit) continue;
      loops.halfway(at, count + NEAR_HALVES - 1, this.halfAt, HALF_TAPS, this.halvesAt);
      for (let start = 0; start < count; start += SHORT_STRETCH)
        this.raiseShort(from + start, start, min(SHORT_STRETCH, count - start), limit);
    }
  }

  /** Raises some values, whose points halfway begin at a place among those that are there. */
  private raiseShort(from: number, start: number, count: number, limit: number): void {
    const { loops } = this.kernels;
    const halvesAt = this.halvesAt + start * BYTES;
    const middleAt = this.samplesAt + (from + SAMPLES_BEFORE - 1) * BYTES;
    const nearAt = middleAt - (NEAR_SAMPLES / 2 - 1) * BYTES;
    const highest = max(
      loops.highest(halvesAt, count + NEAR_HALVES - 1),
      loops.highest(nearAt, count + NEAR_SAMPLES - 1),
    );
    if (highest * FINE_HEADROOM <= limit) return;
    const peaksAt = this.peaksAt + from * BYTES;
    loops.peaksBetween(middleAt, halvesAt, count, this.fineAt, FINE_POINTS, peaksAt);
  }

  /** The greatest of the first so many {@link peaks}. */
  highestPeak(frames: number): number {
    return this.kernels.loops.highest(this.peaksAt, frames);
  }
}

let shared: PeakRoom | null = null;

/** Returns this thread's room. */
export function peakRoom(): PeakRoom {
  shared ??= new PeakRoom();
  return shared;
}
