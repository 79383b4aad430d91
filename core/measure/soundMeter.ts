import { toDb } from '../audio/decibel.ts';
import { type Loudness, LoudnessMeter } from './loudness.ts';
import { TruePeakMeter } from './truePeak.ts';

/** Loudness and true peak of a sound. */
export interface SoundMeasures extends Loudness {
  truePeakDbtp: number | null;
}

/** Measures loudness and true peak as sound passes by. */
export class SoundMeter {
  private readonly loudness: LoudnessMeter;
  private readonly peaks: TruePeakMeter[];

  constructor(sampleRate: number, channels: number) {
    this.loudness = new LoudnessMeter(sampleRate, channels);
    this.peaks = Array.from({ length: channels }, () => new TruePeakMeter());
  }

  /** Takes the next `frames` frames, from the beginning of each plane. */
  add(planes: ArrayLike<Float32Array>, frames: number): void {
    this.loudness.add(planes, frames);
    this.peaks.forEach((meter, channel) => {
      meter.add(planes[channel], 0, frames);
    });
  }

  /** Returns what the whole of it measures; silence has no peak. */
  result(): SoundMeasures {
    const peak = Math.max(...this.peaks.map((meter) => meter.peak()));
    return { ...this.loudness.result(), truePeakDbtp: peak > 0 ? toDb(peak) : null };
  }
}
