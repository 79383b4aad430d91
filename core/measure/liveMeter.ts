import type { Stereo } from '../audio/planes.ts';
import { BLOCK_S, MOMENTARY_BLOCKS, SHORT_TERM_BLOCKS } from './covariance.ts';
import { KWeighting } from './kWeighting.ts';
import { toLufs } from './loudness.ts';

const { abs, max, min, round } = Math;

/**
 * A loudness meter for sound that is playing: momentary (400 ms) and short-term (3 s) loudness after ITU-R BS.1770-5, each
 * renewed every 100 ms, and the highest sample since the last look. It allocates nothing once it is made.
 */
export class LiveMeter {
  private readonly filter: KWeighting;
  private readonly blockFrames: number;
  private readonly powers = new Float64Array(SHORT_TERM_BLOCKS);
  private at = 0;
  private filled = 0;
  private power = 0;
  private highest = 0;
  /** LUFS; −Infinity in silence. */
  momentaryLufs = Number.NEGATIVE_INFINITY;
  shortTermLufs = Number.NEGATIVE_INFINITY;

  constructor(sampleRate: number) {
    this.filter = new KWeighting(sampleRate);
    this.blockFrames = round(sampleRate * BLOCK_S);
  }

  /** Takes `frames` frames from the beginning of both planes. */
  add(planes: Stereo, frames: number): void {
    for (let side = 0; side < 2; side++) {
      const plane = planes[side];
      for (let i = 0; i < frames; i++) if (abs(plane[i]) > this.highest) this.highest = abs(plane[i]);
    }
    for (let from = 0; from < frames; ) {
      const count = min(frames - from, this.blockFrames - this.filled);
      this.filter.process(planes, from, count);
      this.power += this.filter.powers[0] + this.filter.powers[1];
      this.filled += count;
      from += count;
      if (this.filled === this.blockFrames) this.closeBlock();
    }
  }

  /** Returns the highest sample since the last call. */
  takePeak(): number {
    const { highest } = this;
    this.highest = 0;
    return highest;
  }

  /** Forgets what was heard. */
  reset(): void {
    this.powers.fill(0);
    this.power = 0;
    this.filled = 0;
    this.highest = 0;
    this.momentaryLufs = Number.NEGATIVE_INFINITY;
    this.shortTermLufs = Number.NEGATIVE_INFINITY;
  }

  private closeBlock(): void {
    this.powers[this.at] = this.power / this.blockFrames;
    this.at = (this.at + 1) % SHORT_TERM_BLOCKS;
    this.power = 0;
    this.filled = 0;
    this.momentaryLufs = this.meanLufs(MOMENTARY_BLOCKS);
    this.shortTermLufs = this.meanLufs(SHORT_TERM_BLOCKS);
  }

  private meanLufs(blocks: number): number {
    let sum = 0;
    for (let i = 1; i <= blocks; i++)
      sum += this.powers[(this.at + SHORT_TERM_BLOCKS - i) % SHORT_TERM_BLOCKS];
    return toLufs(max(0, sum / blocks));
  }
}
