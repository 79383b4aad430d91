import { open } from 'node:fs/promises';
import { type FoldDown, foldToStereo } from '../../core/audio/foldDown.ts';
import type { Stereo } from '../../core/audio/planes.ts';
import { AudioFile, type OpenOptions } from './audioFile.ts';
import { BYTES_A_FRAME, KEPT_EXTENSION, keptFrames } from './keptFrames.ts';
import { Resampler } from './resample.ts';

/** The rate of every stem (Hz). */
export const STEM_RATE = 48_000;

/** How a track of an open file is read: more than two channels with a fold-down of their own, and from a moment on (s). */
export interface StemOptions {
  fold?: FoldDown;
  fromS?: number;
}

/**
 * Reads one track of a file as the engine wants it: stereo at 48 kHz, in portions that the reader chooses. Other
 * rates are converted and other channel counts folded down on the way; nothing but a portion is held in memory.
 */
export class Stem {
  private readonly ownFile: { close(): unknown } | null;
  private readonly portions: AsyncGenerator<Stereo, void, undefined>;
  private pending: Stereo | null = null;
  private used = 0;
  /** How long the file says it is (s); what is decoded may differ a little. */
  readonly expectedS: number;
  /** True once every frame of the file has been read. */
  ended = false;

  private constructor(
    portions: AsyncGenerator<Stereo, void, undefined>,
    expectedS: number,
    ownFile: { close(): unknown } | null,
  ) {
    this.ownFile = ownFile;
    this.expectedS = expectedS;
    this.portions = portions;
  }

  /** Opens a track of a file; or a recording that is kept as raw frames, by its extension. */
  static async open(path: string, track = 0, options: OpenOptions = {}): Promise<Stem> {
    if (path.endsWith(KEPT_EXTENSION)) {
      const kept = await open(path, 'r');
      const { size } = await kept.stat();
      return new Stem(keptFrames(kept), size / BYTES_A_FRAME / STEM_RATE, kept);
    }
    const file = await AudioFile.open(path, options);
    return new Stem(stereoPortions(file, track, {}), file.tracks[track].durationS, file);
  }

  /**
   * Reads a track of a file that is open already, beside others of it; whoever opened the file closes it. More than two
   * channels are folded down with `fold`, or the usual weights.
   */
  static of(file: AudioFile, track: number, { fold, fromS = 0 }: StemOptions = {}): Stem {
    return new Stem(stereoPortions(file, track, { fold, fromS }), file.tracks[track].durationS - fromS, null);
  }

  /**
   * Fills the first `frames` frames of both planes, with silence after the end of the file.
   * @returns how many frames came from the file
   */
  async read(planes: Stereo, frames: number): Promise<number> {
    let filled = 0;
    while (filled < frames && !this.ended) {
      if (!this.pending) {
        const next = await this.portions.next();
        if (next.done) {
          this.ended = true;
          break;
        }
        this.pending = next.value;
        this.used = 0;
      }
      const count = Math.min(frames - filled, this.pending[0].length - this.used);
      planes[0].set(this.pending[0].subarray(this.used, this.used + count), filled);
      planes[1].set(this.pending[1].subarray(this.used, this.used + count), filled);
      filled += count;
      this.used += count;
      if (this.used === this.pending[0].length) this.pending = null;
    }
    planes[0].fill(0, filled, frames);
    planes[1].fill(0, filled, frames);
    return filled;
  }

  async close(): Promise<void> {
    await this.portions.return();
    await this.ownFile?.close();
  }
}

async function* stereoPortions(
  file: AudioFile,
  track: number,
  { fold, fromS }: StemOptions,
): AsyncGenerator<Stereo, void, undefined> {
  const { sampleRate, channels } = file.tracks[track];
  const resampler =
    sampleRate === STEM_RATE ? null : new Resampler(channels === 1 ? 1 : 2, sampleRate, STEM_RATE);
  try {
    for await (const planes of file.planes(track, fromS)) {
      const folded = planes.length > 2 ? foldToStereo(planes, fold) : planes;
      yield asStereo(resampler ? resampler.push([...folded]) : folded);
    }
    if (resampler) yield asStereo(resampler.flush());
  } finally {
    resampler?.close();
  }
}

function asStereo(planes: readonly Float32Array[]): Stereo {
  return [planes[0], planes[1] ?? planes[0]];
}
