import type { Stereo } from '../audio/planes.ts';
import { LevelSwitch, SlidingGain } from './levelSwitch.ts';

/** How ducking works. */
export interface DuckerSettings {
  /** The level of the key from which on it ducks (dBFS, RMS over some 10 ms). */
  opensDb: number;
  /** By how much it is quieter then (dB). */
  depthDb: number;
  attackMs: number;
  holdMs: number;
  releaseMs: number;
}

/** It stops this far below the level at which it began (dB). */
const HYSTERESIS_DB = 6;

/**
 * Turns a sound down while another one, its key, sounds (sidechain). Attack and release are the time constants of an
 * exponential in dB, as of the noise gate.
 */
export class Ducker {
  private readonly depthDb: number;
  private readonly keyIndex: number;
  private readonly level: LevelSwitch;
  private readonly gain: SlidingGain;

  /** @param keyIndex where the key stands among the sources; below 0 for a source that is not there */
  constructor(settings: DuckerSettings, keyIndex: number, sampleRate: number) {
    this.depthDb = settings.depthDb;
    this.keyIndex = keyIndex;
    this.level = new LevelSwitch({ ...settings, hysteresisDb: HYSTERESIS_DB }, sampleRate);
    this.gain = new SlidingGain(0, settings.releaseMs, settings.attackMs, sampleRate);
  }

  /** The key may begin at any time: it has to be listened to, whatever goes in here. */
  get isAtRest(): boolean {
    return this.keyIndex < 0;
  }

  /** Ducks both sides in place, under the same frames of the key. */
  process([left, right]: Stereo, start: number, end: number, sources: readonly Stereo[]): void {
    const key = sources[this.keyIndex];
    if (!key) return;
    const { level, gain, depthDb } = this;
    const [keyLeft, keyRight] = key;
    for (let i = start; i < end; i++) {
      const factor = gain.next(level.next(keyLeft[i], keyRight[i]) ? -depthDb : 0);
      left[i] *= factor;
      right[i] *= factor;
    }
    level.settle();
  }
}
