import { fromDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { pairRoom, ROOM_FRAMES } from '../kernels/pairRoom.ts';

const { abs, exp, max, min } = Math;

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

/**
 * A feed-forward compressor on peaks, both sides together. The gain reduction is smoothed in dB, attack and release each
 * with their own time constant (the smooth branching detector of the same paper, equation 17).
 */
export class Compressor {
  private readonly settings: Float64Array;
  private readonly room = pairRoom();
  private reductionDb = 0;

  constructor(settings: CompressorSettings, sampleRate: number) {
    const { thresholdDb, ratio, kneeDb, attackMs, releaseMs, makeUpDb } = settings;
    const kept = (ms: number) => exp(-1000 / (max(ms, 0.01) * sampleRate));
    const untouched = fromDb(thresholdDb - kneeDb / 2);
    this.settings = Float64Array.of(
      thresholdDb,
      1 - 1 / ratio,
      kneeDb,
      untouched,
      kept(attackMs),
      kept(releaseMs),
      makeUpDb,
    );
  }

  /** Tells whether nothing would move in it as long as silence goes in. */
  get isAtRest(): boolean {
    return this.reductionDb === 0;
  }

  /** Compresses both sides in place. */
  process(planes: Stereo, start: number, end: number): void {
    const { room, settings } = this;
    room.doubles.set(settings);
    for (let at = start; at < end; at += ROOM_FRAMES) {
      const frames = min(ROOM_FRAMES, end - at);
      room.take(planes, at, frames);
      const { leftAt, rightAt } = room;
      this.reductionDb = room.kernels.loops.compress(
        leftAt,
        rightAt,
        frames,
        room.doubleAt(0),
        this.reductionDb,
      );
      room.give(planes, at, frames);
    }
  }
}
