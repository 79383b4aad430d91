import { fromDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import type { Coefficients } from './biquad.ts';
import { kWeightingFor } from './kCoefficients.ts';

const { exp, log10, max, min } = Math;

/** The range in which a leveller keeps a sound, and how. */
export interface LevellerSettings {
  /** Quieter than this it gets louder (LUFS), and louder than {@link highLufs} quieter. */
  lowLufs: number;
  highLufs: number;
  /** The most by which it changes the level (dB), up or down. */
  mostDb: number;
  /** How fast it does (dB in a second). */
  dbPerS: number;
}

/** Loudness is an average that forgets with this time constant; what counts as sound is judged over the shorter one. */
const SLOW_S = 1;
const QUICK_S = 0.02;
/** Pauses: what lies further below the range than this leaves loudness and gain as they are (dB). */
const PAUSE_DB = 25;
/** The gain is decided so often (frames); in between it moves evenly. */
const STEP = 64;
/** The absolute term of BS.1770: a sine of 997 Hz at full scale on both sides reads 0 LUFS. */
const OFFSET_DB = -0.691;

/**
 * Keeps the loudness of a sound within a range by a gain that moves slowly, both sides alike; in pauses it stays as it is. Loudness
 * is K-weighted power (ITU-R BS.1770-5 Annex 1) with a running average in place of blocks, so that it needs no look ahead.
 */
export class Leveller {
  private readonly settings: LevellerSettings;
  private readonly sections: [Coefficients, Coefficients];
  /** The state of both sections for both sides: two values each (transposed direct form II). */
  private readonly state = new Float64Array(8);
  private readonly keptSlow: number;
  private readonly keptQuick: number;
  private readonly pause: number;
  private readonly mostStepDb: number;
  private slow = 0;
  private quick = 0;
  /** How much of the average has been filled: until then it counts for what it has heard. */
  private filled = 0;
  private gainDb = 0;
  private gain = 1;
  private step = 0;
  private frame = 0;
  private hasBegun = false;

  constructor(settings: LevellerSettings, sampleRate: number) {
    this.settings = settings;
    this.sections = kWeightingFor(sampleRate);
    this.keptSlow = exp(-1 / (SLOW_S * sampleRate));
    this.keptQuick = exp(-1 / (QUICK_S * sampleRate));
    this.pause = 10 ** ((min(settings.lowLufs, settings.highLufs) - PAUSE_DB - OFFSET_DB) / 10);
    this.mostStepDb = (settings.dbPerS * STEP) / sampleRate;
  }

  /** Tells whether no sound has come yet; from then on its gain may still be moving. */
  get isAtRest(): boolean {
    return !this.hasBegun;
  }

  /** Levels both sides in place. */
  process(planes: Stereo, start: number, end: number): void {
    const [left, right] = planes;
    for (let i = start; i < end; i++) {
      // Frames are counted from the first sound on, so that blocks of any size come to the same.
      if (!this.hasBegun) {
        if (left[i] === 0 && right[i] === 0) continue;
        this.hasBegun = true;
      }
      this.hear(this.weighted(left[i], 0) ** 2 + this.weighted(right[i], 4) ** 2);
      left[i] *= this.gain;
      right[i] *= this.gain;
      this.gain += this.step;
      this.frame += 1;
      if (this.frame === STEP) this.decide();
    }
  }

  private hear(power: number): void {
    this.quick = this.keptQuick * this.quick + (1 - this.keptQuick) * power;
    if (this.quick < 1e-15) this.quick = 0;
    if (this.quick < this.pause) return;
    this.slow = this.keptSlow * this.slow + (1 - this.keptSlow) * power;
    this.filled = this.keptSlow * this.filled + (1 - this.keptSlow);
  }

  /** Decides where the gain goes in the next frames. */
  private decide(): void {
    this.frame = 0;
    const { lowLufs, highLufs, mostDb } = this.settings;
    const [low, high] = [min(lowLufs, highLufs), max(lowLufs, highLufs)];
    let aimDb = this.gainDb;
    if (this.quick >= this.pause && this.filled > 0) {
      const lufs = OFFSET_DB + 10 * log10(this.slow / this.filled);
      aimDb = max(-mostDb, min(mostDb, lufs < low ? low - lufs : lufs > high ? high - lufs : 0));
    }
    this.gain = fromDb(this.gainDb);
    this.gainDb += max(-this.mostStepDb, min(this.mostStepDb, aimDb - this.gainDb));
    this.step = (fromDb(this.gainDb) - this.gain) / STEP;
  }

  /** One frame of one side through both sections. @param at where its state begins */
  private weighted(value: number, at: number): number {
    const { state, sections } = this;
    let out = value;
    for (let section = 0; section < 2; section++) {
      const { b0, b1, b2, a1, a2 } = sections[section];
      const s = at + 2 * section;
      const y = b0 * out + state[s];
      state[s] = b1 * out - a1 * y + state[s + 1];
      state[s + 1] = b2 * out - a2 * y;
      if (y < 1e-15 && y > -1e-15 && value === 0) {
        state[s] = 0;
        state[s + 1] = 0;
      }
      out = y;
    }
    return out;
  }
}
