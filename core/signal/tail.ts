import { isSilent, type Stereo } from '../audio/planes.ts';

/** What is left this far down (dB), near the last of 24 bits, is let go. */
export const GONE_DB = -140;

/** Counts how long nothing has gone in: what rings on is over once its tail has passed. */
export class Tail {
  private readonly frames: number;
  private quiet: number;

  /** @param frames after so many frames of silence nothing comes out any more */
  constructor(frames: number) {
    this.frames = Math.ceil(frames);
    this.quiet = this.frames;
  }

  get isOver(): boolean {
    return this.quiet >= this.frames;
  }

  /** Takes note of what goes in. @returns whether the tail has ended with it, just now */
  hasEnded(planes: Stereo, start: number, end: number): boolean {
    if (!isSilent(planes, start, end)) {
      this.quiet = 0;
      return false;
    }
    const wasOver = this.isOver;
    this.quiet = Math.min(this.frames, this.quiet + end - start);
    return this.isOver && !wasOver;
  }
}
