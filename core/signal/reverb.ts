import { fromDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import { GONE_DB, Tail } from './tail.ts';

export interface ReverbSettings {
  /** How long it takes until what rings on is 60 dB quieter (s). */
  decayS: number;
  /** How loud what rings on is, against the sound itself (dB). */
  wetDb: number;
  /** How much sooner the top fades than the rest, 0 (alike) to 100 (at once). */
  dampPercent: number;
}

/** Lengths of the comb filters and all-passes (ms), spread so that no pitch stands out. */
const COMBS_MS = [29.7, 37.1, 41.1, 43.7, 31.9, 34.3];
const ALLPASSES_MS = [5.0, 1.7];
/** The right side's are longer by this (ms): the room is heard wide. */
const SPREAD_MS = 0.52;
const ALLPASS_GAIN = 0.7;

/**
 * A small room, after Schroeder (Natural Sounding Artificial Reverberation, 1962) with the damped combs of Moorer (About This
 * Reverberation Business, 1979): parallel combs, each let to fall by 60 dB in the decay time, and two all-passes after them.
 */
export class Reverb {
  private readonly sides: [Room, Room];
  private readonly wet: number;
  private readonly tail: Tail;

  constructor({ decayS, wetDb, dampPercent }: ReverbSettings, sampleRate: number) {
    const damp = Math.min(0.95, dampPercent / 100);
    this.sides = [new Room(decayS, damp, 0, sampleRate), new Room(decayS, damp, SPREAD_MS, sampleRate)];
    this.wet = fromDb(wetDb);
    this.tail = new Tail(((decayS * -GONE_DB) / 60 + 0.1) * sampleRate);
  }

  /** Tells whether nothing rings on. */
  get isAtRest(): boolean {
    return this.tail.isOver;
  }

  /** Adds the room to both sides in place. */
  process(planes: Stereo, start: number, end: number): void {
    const { sides, wet } = this;
    const hasEnded = this.tail.hasEnded(planes, start, end);
    for (let i = start; i < end; i++) {
      const into = (planes[0][i] + planes[1][i]) * 0.5;
      planes[0][i] += wet * sides[0].next(into);
      planes[1][i] += wet * sides[1].next(into);
    }
    if (hasEnded) for (const side of sides) side.clear();
  }
}

/** One side of the room. */
class Room {
  private readonly combs: Comb[];
  private readonly allpasses: Allpass[];

  constructor(decayS: number, damp: number, laterMs: number, sampleRate: number) {
    const frames = (ms: number) => Math.round(((ms + laterMs) * sampleRate) / 1000);
    this.combs = COMBS_MS.map((ms) => new Comb(frames(ms), decayS, damp, sampleRate));
    this.allpasses = ALLPASSES_MS.map((ms) => new Allpass(frames(ms)));
  }

  next(into: number): number {
    const { combs, allpasses } = this;
    let sum = 0;
    for (let i = 0; i < combs.length; i++) sum += combs[i].next(into);
    sum /= combs.length;
    for (let i = 0; i < allpasses.length; i++) sum = allpasses[i].next(sum);
    return sum;
  }

  clear(): void {
    for (const one of this.combs) one.clear();
    for (const one of this.allpasses) one.clear();
  }
}

class Comb {
  private readonly line: Float64Array;
  private readonly feedback: number;
  private readonly damp: number;
  private at = 0;
  private low = 0;

  constructor(frames: number, decayS: number, damp: number, sampleRate: number) {
    this.line = new Float64Array(Math.max(1, frames));
    this.feedback = 10 ** ((-3 * frames) / (sampleRate * decayS));
    this.damp = damp;
  }

  next(into: number): number {
    const { line, at } = this;
    const out = line[at];
    this.low = out * (1 - this.damp) + this.low * this.damp;
    line[at] = into + this.low * this.feedback;
    this.at = at + 1 === line.length ? 0 : at + 1;
    return out;
  }

  clear(): void {
    this.line.fill(0);
    this.low = 0;
  }
}

class Allpass {
  private readonly line: Float64Array;
  private at = 0;

  constructor(frames: number) {
    this.line = new Float64Array(Math.max(1, frames));
  }

  next(into: number): number {
    const { line, at } = this;
    const late = line[at];
    const held = into + late * ALLPASS_GAIN;
    line[at] = held;
    this.at = at + 1 === line.length ? 0 : at + 1;
    return late - held * ALLPASS_GAIN;
  }

  clear(): void {
    this.line.fill(0);
  }
}
