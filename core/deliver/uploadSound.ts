import { fromDb } from '../audio/decibel.ts';
import { newStereo, SAMPLE_RATE, type Stereo } from '../audio/planes.ts';
import { Limiter } from '../signal/limiter.ts';
import { LIMITER_FRAMES } from '../signal/limiterFrames.ts';

const { max, min } = Math;

/** How the sound of an upload is made. */
export interface UploadSoundSettings {
  /** How loud each track goes in (dB). */
  trackGainsDb: number[];
  /** What is done to all of it (dB). */
  gainDb: number;
  /** No true peak is above this (dBTP); null leaves peaks alone. */
  ceilingDbtp: number | null;
  /** How long it fades in at its start and out at its end (s). */
  fadeS: number;
  lengthS: number;
}

/** The limiter lets go with this time constant: speech and music do not pump. */
export const UPLOAD_RELEASE_MS = 120;

/** So many frames of what comes first are not part of it: the limiter looks ahead. */
export const UPLOAD_LATENCY = LIMITER_FRAMES;

/** Mixes tracks for an upload, portion by portion: their levels, one level for all, fades, and a limiter for peaks. */
export class UploadSound {
  private readonly gains: number[];
  private readonly limiter: Limiter | null;
  private readonly fadeFrames: number;
  private readonly frames: number;
  private done = 0;

  constructor({ trackGainsDb, gainDb, ceilingDbtp, fadeS, lengthS }: UploadSoundSettings) {
    this.gains = trackGainsDb.map((db) => fromDb(db + gainDb));
    this.limiter =
      ceilingDbtp === null ? null : new Limiter({ ceilingDbtp, releaseMs: UPLOAD_RELEASE_MS }, SAMPLE_RATE);
    this.fadeFrames = fadeS * SAMPLE_RATE;
    this.frames = lengthS * SAMPLE_RATE;
  }

  /** Mixes the next frames of every track. What comes out is {@link UPLOAD_LATENCY} late where peaks are limited. */
  mix(tracks: Stereo[], frames: number): Stereo {
    const mixed = newStereo(frames);
    for (const side of [0, 1]) {
      const sum = mixed[side];
      for (const [at, gain] of this.gains.entries()) {
        const plane = tracks[at][side];
        for (let i = 0; i < frames; i++) sum[i] += gain * plane[i];
      }
      this.fade(sum, frames);
    }
    this.done += frames;
    this.limiter?.process(mixed, 0, frames);
    return mixed;
  }

  private fade(plane: Float32Array, frames: number): void {
    const { done, fadeFrames } = this;
    if (fadeFrames <= 0) return;
    for (let i = 0; i < frames; i++) {
      const share = min(done + i, this.frames - done - i) / fadeFrames;
      if (share < 1) plane[i] *= max(0, share);
    }
  }
}
