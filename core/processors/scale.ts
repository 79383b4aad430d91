import type { Stereo } from '../audio/planes.ts';
import type { Stage } from './kind.ts';

/** Multiplies both sides by a factor. */
export class Scale implements Stage {
  readonly isAtRest = true;
  private readonly gain: number;

  constructor(gain: number) {
    this.gain = gain;
  }

  process([left, right]: Stereo, start: number, end: number): void {
    for (let i = start; i < end; i++) {
      left[i] *= this.gain;
      right[i] *= this.gain;
    }
  }
}
