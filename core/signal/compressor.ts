import type { Stereo } from '../engine/planes.ts';
import { fromDb, toDb } from './decibel.ts';

const { abs, exp, max } = Math;

/** How a compressor works. */
export interface CompressorSettings {
  thresholdDb: number;
  ratio: number;
  /** The width of the bend round the threshold (dB). */
  kneeDb: number;
  attackMs: number;
  releaseMs: number;
  makeUpDb: number;
}

/**
 * The level (dB) that comes out for one that goes in, without make-up. Source: Giannoulis, Massberg and Reiss, Digital
 * Dynamic Range Compressor Design (JAES 60, 2012), equation 4: a quadratic soft knee.
 */
export function staticCurve(levelDb: number, { thresholdDb, ratio, kneeDb }: CompressorSettings): number {
  const over = levelDb - thresholdDb;
  if (2 * over < -kneeDb) return levelDb;
  if (2 * abs(over) <= kneeDb && kneeDb > 0)
    return levelDb + ((1 / ratio - 1) * (over + kneeDb / 2) ** 2) / (2 * kneeDb);
  return thresholdDb + over / ratio;
}

/** Under this the level is not looked at (dB). */
const LOWEST_DB = -120;

/**
 * A feed-forward compressor on peaks, both sides together. The gain reduction is smoothed in dB, attack and release each
 * with their own time constant (the smooth branching detector of the same paper, equation 17).
 */
export class Compressor {
  private readonly settings: CompressorSettings;
  private readonly attack: number;
  private readonly release: number;
  private reductionDb = 0;

  constructor(settings: CompressorSettings, sampleRate: number) {
    const share = (ms: number) => exp(-1000 / (max(ms, 0.01) * sampleRate));
    this.settings = settings;
    this.attack = share(settings.attackMs);
    this.release = share(settings.releaseMs);
  }

  /** Tells whether nothing would move in it as long as silence goes in. */
  get isAtRest(): boolean {
    return this.reductionDb === 0;
  }

  /** Compresses both sides in place. */
  process([left, right]: Stereo, start: number, end: number): void {
    const { settings, attack, release } = this;
    for (let i = start; i < end; i++) {
      const level = max(LOWEST_DB, toDb(max(abs(left[i]), abs(right[i]))));
      const wanted = level - staticCurve(level, settings);
      const keep = wanted > this.reductionDb ? attack : release;
      this.reductionDb = keep * this.reductionDb + (1 - keep) * wanted;
      if (this.reductionDb < 1e-6) this.reductionDb = 0;
      const gain = fromDb(settings.makeUpDb - this.reductionDb);
      left[i] *= gain;
      right[i] *= gain;
    }
  }
}
