import { toDb } from '../audio/decibel.ts';
import { HEADROOM } from '../signal/oversampling.ts';
import { PEAK_HISTORY, PEAK_PORTION, peakRoom } from '../signal/peaks.ts';

const { max, min } = Math;

/**
 * Measures the true peak of one channel: the largest magnitude of the samples and of seven points between each two of them (see
 * `oversampling.ts`). What cannot hold a new peak is passed over, which changes no result.
 */
export class TruePeakMeter {
  private readonly history = new Float32Array(PEAK_HISTORY);
  private found = 0;

  /** Takes the next samples, from index `start` up to `end`. */
  add(samples: Float32Array, start = 0, end = samples.length): void {
    const room = peakRoom();
    for (let from = start; from < end; from += PEAK_PORTION) {
      const frames = min(PEAK_PORTION, end - from);
      room.samples.set(this.history);
      room.samples.set(samples.subarray(from, from + frames), PEAK_HISTORY);
      this.look(frames);
      this.history.set(room.samples.subarray(frames, frames + PEAK_HISTORY));
    }
  }

  /** The true peak so far as an amplitude; 1 is full scale. */
  peak(): number {
    return this.found;
  }

  /** The true peak so far in dBTP, or null when there was nothing but silence. */
  peakDbtp(): number | null {
    return this.found > 0 ? toDb(this.found) : null;
  }

  private look(frames: number): void {
    const room = peakRoom();
    const sample = room.highest(frames);
    if (sample * HEADROOM <= this.found) return;
    this.found = max(this.found, sample);
    room.peaks.fill(0, 0, frames);
    room.raise(frames, this.found);
    this.found = max(this.found, room.highestPeak(frames));
  }
}
