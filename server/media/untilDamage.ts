import type { Stereo } from '../../core/audio/planes.ts';
import { MediaError } from './mediaError.ts';
import type { Stem } from './stem.ts';

/** Reads a stem as far as it can be decoded; what comes after a damaged place is silence. */
export class UntilDamage {
  private readonly stem: Stem;
  /** What is wrong with the stem, once that was met. */
  problem: string | null = null;

  constructor(stem: Stem) {
    this.stem = stem;
  }

  get expectedS(): number {
    return this.stem.expectedS;
  }

  /** As {@link Stem.read}, but 0 from the damaged place on. */
  async read(planes: Stereo, frames: number): Promise<number> {
    try {
      if (this.problem === null) return await this.stem.read(planes, frames);
    } catch (error) {
      if (!(error instanceof MediaError)) throw error;
      this.problem = error.message;
    }
    for (const plane of planes) plane.fill(0, 0, frames);
    return 0;
  }

  async close(): Promise<void> {
    await this.stem.close();
  }
}
