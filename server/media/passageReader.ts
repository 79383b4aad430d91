import { newStereo, type Stereo } from '../../core/audio/planes.ts';
import type { HeardSound, OpenSound } from './hearPair.ts';
import { skip } from './pass.ts';
import { STEM_RATE } from './stem.ts';

/** What lies farther on than this is looked for in the file instead of being read up to (s): some containers are quick at that, and some are not. */
const FAR_S = 30;

/**
 * Reads passages of one sound, all of the same length, each beginning no earlier than the one before it: so the sound is decoded once, whatever
 * its container. Close it when done.
 */
export class PassageReader {
  private readonly sound: HeardSound;
  private readonly planes: Stereo;
  private open: OpenSound | null = null;
  /** The first frame of the passage that is held, how many of it are there, and up to where the sound was read. */
  private start = 0;
  private held = 0;
  private readTo = 0;

  /** @param lengthS of every passage */
  constructor(sound: HeardSound, lengthS: number) {
    this.sound = sound;
    this.planes = newStereo(Math.round(lengthS * STEM_RATE));
  }

  /** Reads the passage that begins at a moment (s); it holds until the next one is read. @throws {MediaError} where it does not decode */
  async passage(fromS: number): Promise<HeardSound> {
    const start = Math.round(fromS * STEM_RATE);
    const isFar = !this.open || start > this.readTo + FAR_S * STEM_RATE;
    if (isFar) await this.reopen(start);
    else if (start >= this.readTo) {
      await skip(this.open as OpenSound, start - this.readTo);
      this.held = 0;
      this.readTo = start;
    } else {
      const kept = this.start + this.held - start;
      for (const plane of this.planes) plane.copyWithin(0, start - this.start, start - this.start + kept);
      this.held = Math.max(0, kept);
    }
    this.start = start;
    await this.fill();
    return { from: (startS) => this.reading(Math.round(startS * STEM_RATE) - start) };
  }

  async close(): Promise<void> {
    await this.open?.close();
  }

  private async reopen(start: number): Promise<void> {
    await this.open?.close();
    this.open = this.sound.from(start / STEM_RATE);
    this.held = 0;
    this.readTo = start;
  }

  private async fill(): Promise<void> {
    const [left, right] = this.planes;
    const missing = left.length - this.held;
    if (missing === 0) return;
    const rest: Stereo = [left.subarray(this.held), right.subarray(this.held)];
    const count = (await this.open?.read(rest, missing)) ?? 0;
    this.held += count;
    this.readTo += missing;
  }

  /** Reads what is held, from a frame of it on. */
  private reading(first: number): OpenSound {
    let at = first;
    return {
      expectedS: Math.max(0, this.held - first) / STEM_RATE,
      read: async (planes, frames) => {
        const count = Math.max(0, Math.min(frames, this.held - at));
        planes.forEach((plane, side) => {
          plane.set(this.planes[side].subarray(at, at + count));
          plane.fill(0, count, frames);
        });
        at += count;
        return count;
      },
      close: async () => {},
    };
  }
}
