import type { Stereo } from '../audio/planes.ts';
import { LevelSwitch, SlidingGain, type SwitchSettings } from './levelSwitch.ts';

/** How a noise gate works. */
export interface GateSettings extends SwitchSettings {
  /** How much quieter it is when closed (dB, negative). */
  rangeDb: number;
  attackMs: number;
  releaseMs: number;
}

/**
 * A noise gate with hysteresis and hold: both sides open together. Attack and release are the time constants of an
 * exponential: after so long, 63 % of the way (in dB) is done.
 */
export class Gate {
  private readonly rangeDb: number;
  private readonly level: LevelSwitch;
  private readonly gain: SlidingGain;

  constructor(settings: GateSettings, sampleRate: number) {
    this.rangeDb = settings.rangeDb;
    this.level = new LevelSwitch(settings, sampleRate);
    this.gain = new SlidingGain(settings.rangeDb, settings.attackMs, settings.releaseMs, sampleRate);
  }

  /** Tells whether nothing would move in it as long as silence goes in. */
  get isAtRest(): boolean {
    return this.level.isAtRest && this.gain.gainDb === this.rangeDb;
  }

  /** Gates both sides in place. */
  process([left, right]: Stereo, start: number, end: number): void {
    const { level, gain, rangeDb } = this;
    for (let i = start; i < end; i++) {
      const factor = gain.next(level.next(left[i], right[i]) ? 0 : rangeDb);
      if (factor === 1) continue;
      left[i] *= factor;
      right[i] *= factor;
    }
    level.settle();
  }
}
