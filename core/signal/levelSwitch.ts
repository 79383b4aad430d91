import { fromDb } from '../audio/decibel.ts';
import { flushed } from './biquad.ts';

const { abs, exp, max } = Math;

/** The level is followed with this time constant (ms). */
const FOLLOW_MS = 10;

/** The share of the way to its goal that a value with a time constant goes in one frame. */
export function shareOf(ms: number, sampleRate: number): number {
  return 1 - exp(-1000 / (max(ms, 0.01) * sampleRate));
}

/** When a switch is on. */
export interface SwitchSettings {
  /** It goes on at this level (dBFS, RMS over some 10 ms) … */
  opensDb: number;
  /** … and off this far below it, so that it does not flutter, … */
  hysteresisDb: number;
  /** … but not before it was below for so long. */
  holdMs: number;
}

/** Follows the level of a sound, and is on while there is enough of it. */
export class LevelSwitch {
  isOn = false;
  private readonly opens: number;
  private readonly closes: number;
  private readonly follow: number;
  private readonly holdFrames: number;
  private power = 0;
  private held = 0;

  constructor({ opensDb, hysteresisDb, holdMs }: SwitchSettings, sampleRate: number) {
    this.opens = fromDb(opensDb) ** 2;
    this.closes = fromDb(opensDb - hysteresisDb) ** 2;
    this.follow = shareOf(FOLLOW_MS, sampleRate);
    this.holdFrames = (holdMs * sampleRate) / 1000;
  }

  /** Tells whether it stays off as long as silence comes. */
  get isAtRest(): boolean {
    return !this.isOn && this.power === 0;
  }

  /** Takes the next frame, and tells whether it is on. */
  next(left: number, right: number): boolean {
    const now = (left * left + right * right) / 2;
    this.power += this.follow * (now - this.power);
    if (this.power >= this.opens) {
      this.isOn = true;
      this.held = this.holdFrames;
    } else if (this.isOn && this.power < this.closes) {
      this.held -= 1;
      if (this.held <= 0) this.isOn = false;
    }
    return this.isOn;
  }

  /** To be called after each stretch, so that a decaying level does not stay for ever. */
  settle(): void {
    this.power = flushed(this.power);
  }
}

/** A gain (dB) that goes to its goal along an exponential, up and down with a time constant each, and arrives. */
export class SlidingGain {
  gainDb: number;
  private factor: number;
  private readonly up: number;
  private readonly down: number;

  constructor(gainDb: number, upMs: number, downMs: number, sampleRate: number) {
    this.gainDb = gainDb;
    this.factor = fromDb(gainDb);
    this.up = shareOf(upMs, sampleRate);
    this.down = shareOf(downMs, sampleRate);
  }

  /** Goes a frame towards the goal (dB) and returns the factor. */
  next(goalDb: number): number {
    const away = goalDb - this.gainDb;
    if (away !== 0) {
      this.gainDb += (away > 0 ? this.up : this.down) * away;
      if (abs(goalDb - this.gainDb) < 1e-3) this.gainDb = goalDb;
      this.factor = fromDb(this.gainDb);
    }
    return this.factor;
  }
}
