import { toDb } from '../audio/decibel.ts';
import { HEADROOM, PHASES, TAPS } from '../signal/oversampling.ts';

const { abs, min } = Math;

const STRETCH = 32;

/**
 * Measures the true peak of one channel: four-times oversampling, and the largest magnitude of the samples and the
 * points between them (the samples themselves are counted too, since the filter's phases all lie between them).
 * Stretches that cannot hold a new peak are passed over, which changes no result.
 */
export class TruePeakMeter {
  private readonly work = new Float32Array(TAPS - 1 + STRETCH);
  private highest = 0;

  /** Takes the next samples, from index `start` up to `end`. */
  add(samples: Float32Array, start = 0, end = samples.length): void {
    for (let from = start; from < end; from += STRETCH) {
      const count = min(STRETCH, end - from);
      this.work.copyWithin(0, STRETCH);
      for (let i = 0; i < count; i++) this.work[TAPS - 1 + i] = samples[from + i];
      if (count < STRETCH) this.shortStretch(count);
      else this.scan(count);
    }
  }

  /** The true peak so far as an amplitude; 1 is full scale. */
  peak(): number {
    return this.highest;
  }

  /** The true peak so far in dBTP, or null when there was nothing but silence. */
  peakDbtp(): number | null {
    return this.highest > 0 ? toDb(this.highest) : null;
  }

  /** After a short stretch, the newest samples are moved to the end, where the next one looks for its history. */
  private shortStretch(count: number): void {
    this.scan(count);
    this.work.copyWithin(STRETCH, count, count + TAPS - 1);
  }

  private scan(count: number): void {
    const work = this.work;
    let sample = 0;
    for (let i = 0; i < TAPS - 1 + count; i++) {
      const magnitude = abs(work[i]);
      if (magnitude > sample) sample = magnitude;
    }
    if (sample * HEADROOM <= this.highest) return;
    if (sample > this.highest) this.highest = sample;
    for (const phase of PHASES) {
      for (let i = 0; i < count; i++) {
        let sum = 0;
        for (let tap = 0; tap < TAPS; tap++) sum += phase[tap] * work[i + TAPS - 1 - tap];
        const magnitude = abs(sum);
        if (magnitude > this.highest) this.highest = magnitude;
      }
    }
  }
}
