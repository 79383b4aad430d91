import type { Stereo } from '../engine/planes.ts';
import { flushed } from './biquad.ts';
import { fromDb } from './decibel.ts';

const { abs, exp, max } = Math;

/** How a noise gate works. */
export interface GateSettings {
  /** It opens at this level (dBFS, RMS over some 10 ms) … */
  opensDb: number;
  /** … and closes this far below it, so that it does not flutter. */
  hysteresisDb: number;
  /** How much quieter it is when closed (dB, negative). */
  rangeDb: number;
  attackMs: number;
  holdMs: number;
  releaseMs: number;
}

/** The level is followed with this time constant (ms). */
const FOLLOW_MS = 10;

/**
 * A noise gate with hysteresis and hold: both sides open together. Attack and release are the time constants of an
 * exponential: after so long, 63 % of the way (in dB) is done.
 */
export class Gate {
  private readonly opens: number;
  private readonly closes: number;
  private readonly rangeDb: number;
  private readonly attack: number;
  private readonly release: number;
  private readonly follow: number;
  private readonly holdFrames: number;
  private power = 0;
  private held = 0;
  private isOpen = false;
  private gainDb: number;

  constructor(settings: GateSettings, sampleRate: number) {
    const share = (ms: number) => 1 - exp(-1000 / (max(ms, 0.01) * sampleRate));
    this.opens = fromDb(settings.opensDb) ** 2;
    this.closes = fromDb(settings.opensDb - settings.hysteresisDb) ** 2;
    this.rangeDb = settings.rangeDb;
    this.attack = share(settings.attackMs);
    this.release = share(settings.releaseMs);
    this.follow = share(FOLLOW_MS);
    this.holdFrames = (settings.holdMs * sampleRate) / 1000;
    this.gainDb = settings.rangeDb;
  }

  /** Tells whether nothing would move in it as long as silence goes in. */
  get isAtRest(): boolean {
    return !this.isOpen && this.power === 0 && this.gainDb === this.rangeDb;
  }

  /** Gates both sides in place. */
  process([left, right]: Stereo, start: number, end: number): void {
    for (let i = start; i < end; i++) {
      const now = (left[i] * left[i] + right[i] * right[i]) / 2;
      this.power += this.follow * (now - this.power);
      if (this.power >= this.opens) {
        this.isOpen = true;
        this.held = this.holdFrames;
      } else if (this.isOpen && this.power < this.closes) {
        this.held -= 1;
        if (this.held <= 0) this.isOpen = false;
      }
      const goal = this.isOpen ? 0 : this.rangeDb;
      const away = goal - this.gainDb;
      if (away !== 0) {
        this.gainDb += (away > 0 ? this.attack : this.release) * away;
        if (abs(goal - this.gainDb) < 1e-3) this.gainDb = goal;
      }
      const gain = fromDb(this.gainDb);
      left[i] *= gain;
      right[i] *= gain;
    }
    this.power = flushed(this.power);
  }
}
