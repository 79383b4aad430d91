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

/** A level that is surely not reduced (dB). */
const LOWEST_DB = -120;

/**
 * A feed-forward compressor on peaks, both sides together. The gain reduction is smoothed in dB, attack and release each
 * with their own time constant (the smooth branching detector of the same paper, equation 17).
 */
export class Compressor {
  private readonly settings: CompressorSettings;
  /** No amplitude up to this is reduced. */
  private readonly untouched: number;
  private readonly makeUp: number;
  private readonly attack: number;
  private readonly release: number;
  private reductionDb = 0;

  constructor(settings: CompressorSettings, sampleRate: number) {
    const share = (ms: number) => exp(-1000 / (max(ms, 0.01) * sampleRate));
    this.settings = settings;
    this.untouched = fromDb(settings.thresholdDb - settings.kneeDb / 2);
    this.makeUp = fromDb(settings.makeUpDb);
    this.attack = share(settings.attackMs);
    this.release = share(settings.releaseMs);
  }

  /** Tells whether nothing would move in it as long as silence goes in. */
  get isAtRest(): boolean {
    return this.reductionDb === 0;
  }

  /** Compresses both sides in place. */
  process([left, right]: Stereo, start: number, end: number): void {
    const { settings, untouched, makeUp, attack, release } = this;
    let { reductionDb } = this;
    for (let i = start; i < end; i++) {
      const peak = max(abs(left[i]), abs(right[i]));
      let gain = makeUp;
      if (peak > untouched || reductionDb > 0) {
        const level = peak > untouched ? toDb(peak) : LOWEST_DB;
        const wanted = level - staticCurve(level, settings);
        const keep = wanted > reductionDb ? attack : release;
        reductionDb = keep * reductionDb + (1 - keep) * wanted;
        if (reductionDb < 1e-6) reductionDb = 0;
        gain = fromDb(settings.makeUpDb - reductionDb);
      }
      left[i] *= gain;
      right[i] *= gain;
    }
    this.reductionDb = reductionDb;
  }
}
