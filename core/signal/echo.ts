import { fromDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { GONE_DB, Tail } from './tail.ts';

export interface EchoSettings {
  /** How much later each repeat is than the one before (ms). */
  apartMs: number;
  /** The level of the first repeat, against the sound itself (dB). */
  firstDb: number;
  /** How much quieter each further repeat is than the one before (dB). */
  fallDb: number;
}

/** Repeats of a sound, each quieter than the one before: a delay line that feeds back. Both sides alike. */
export class Echo {
  private readonly lines: [Float32Array, Float32Array];
  private readonly first: number;
  private readonly again: number;
  private readonly tail: Tail;
  private at = 0;

  constructor({ apartMs, firstDb, fallDb }: EchoSettings, sampleRate: number) {
    const frames = Math.max(1, Math.round((apartMs * sampleRate) / 1000));
    this.lines = [new Float32Array(frames), new Float32Array(frames)];
    this.first = fromDb(firstDb);
    this.again = fromDb(-fallDb);
    const repeats = 1 + Math.ceil(-GONE_DB / fallDb);
    this.tail = new Tail(frames * repeats);
  }

  /** Tells whether nothing rings on. */
  get isAtRest(): boolean {
    return this.tail.isOver;
  }

  /** Adds the repeats to both sides in place. */
  process(planes: Stereo, start: number, end: number): void {
    const { lines, first, again } = this;
    const length = lines[0].length;
    const hasEnded = this.tail.hasEnded(planes, start, end);
    let { at } = this;
    for (let i = start; i < end; i++) {
      for (let side = 0; side < 2; side++) {
        const line = lines[side];
        const repeat = line[at];
        line[at] = planes[side][i] * first + repeat * again;
        planes[side][i] += repeat;
      }
      at = at + 1 === length ? 0 : at + 1;
    }
    this.at = at;
    if (hasEnded) for (const line of lines) line.fill(0);
  }
}
