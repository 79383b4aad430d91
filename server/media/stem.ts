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
  private readonly batches: AsyncGenerator<Stereo[], void, undefined>;
  /** What was read and not asked for yet: portions, the place of the first that counts, and how much of it was used (frames). */
  private batch: Stereo[] = [];
  private at = 0;
  private used = 0;
  /** How long the file says it is (s); what is decoded may differ a little. */
  readonly expectedS: number;
  /** True once every frame of the file has been read. */
  ended = false;

  private constructor(
    batches: AsyncGenerator<Stereo[], void, undefined>,
    expectedS: number,
    ownFile: { close(): unknown } | null,
  ) {
    this.ownFile = ownFile;
    this.expectedS = expectedS;
    this.batches = batches;
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
      const portion = this.batch[this.at];
      if (!portion) {
        await this.readOn();
        continue;
      }
      const count = Math.min(frames - filled, portion[0].length - this.used);
      planes[0].set(portion[0].subarray(this.used, this.used + count), filled);
      planes[1].set(portion[1].subarray(this.used, this.used + count), filled);
      filled += count;
      this.used += count;
      if (this.used < portion[0].length) continue;
      this.at += 1;
      this.used = 0;
    }
    planes[0].fill(0, filled, frames);
    planes[1].fill(0, filled, frames);
    return filled;
  }

  private async readOn(): Promise<void> {
    const next = await this.batches.next();
    this.batch = next.done ? [] : next.value;
    this.at = 0;
    this.ended = next.done ?? false;
  }

  async close(): Promise<void> {
    await this.batches.return();
    await this.ownFile?.close();
  }
}

async function* stereoPortions(
  file: AudioFile,
  track: number,
  { fold, fromS }: StemOptions,
): AsyncGenerator<Stereo[], void, undefined> {
  const { sampleRate, channels } = file.tracks[track];
  const resampler =
    sampleRate === STEM_RATE ? null : new Resampler(channels === 1 ? 1 : 2, sampleRate, STEM_RATE);
  const stereoOf = (planes: Float32Array[]): Stereo => {
    const folded = planes.length > 2 ? foldToStereo(planes, fold) : planes;
    return asStereo(resampler ? resampler.push([...folded]) : folded);
  };
  try {
    for await (const batch of file.portions(track, fromS)) yield batch.map(stereoOf);
    if (resampler) yield [asStereo(resampler.flush())];
  } finally {
    resampler?.close();
  }
}

function asStereo(planes: readonly Float32Array[]): Stereo {
  return [planes[0], planes[1] ?? planes[0]];
}
