import { setImmediate } from 'node:timers/promises';
import { DelayLine } from '../../core/engine/delayLine.ts';
import { newStereo, type Stereo } from '../../core/engine/planes.ts';
import { CovarianceMeter, type Covariances } from '../../core/measure/covariance.ts';
import type { Processing } from '../../core/setup/processing.ts';
import { Chain } from '../../core/signal/chain.ts';
import { STEM_RATE, Stem } from './stem.ts';

const PORTION_FRAMES = STEM_RATE / 2;

/** A recording to measure: its file, and how it arrives. */
export interface SoundFile {
  file: string;
  processing?: Processing;
  delayFrames: number;
  mono: boolean;
}

/**
 * Measures the covariances of recordings that start together, each delayed and folded as it arrives.
 * @param onProgress called with the share that is done, 0 to 1
 */
export async function measureCovariances(
  sounds: SoundFile[],
  onProgress: (share: number) => void = () => {},
): Promise<Covariances> {
  const files = [...new Set(sounds.map(({ file }) => file))];
  const stems: Stem[] = [];
  try {
    for (const file of files) stems.push(await Stem.open(file, 0, { allowCut: true }));
    const raw = files.map(() => newStereo(PORTION_FRAMES));
    const arriving = sounds.map((sound) => new ArrivingSound(sound, raw[files.indexOf(sound.file)]));
    const meter = new CovarianceMeter(STEM_RATE, sounds.length);
    const latest = Math.max(0, ...sounds.map(({ delayFrames }) => delayFrames));
    const expectedS = Math.max(...stems.map((stem) => stem.expectedS), 0.001);
    for (let done = 0, tail = latest; ; ) {
      let frames = 0;
      for (const [index, stem] of stems.entries())
        frames = Math.max(frames, await stem.read(raw[index], PORTION_FRAMES));
      if (frames === 0) {
        frames = Math.min(tail, PORTION_FRAMES);
        tail -= frames;
      }
      if (frames === 0) return meter.result();
      meter.add(
        arriving.map((sound) => sound.next(frames)),
        frames,
      );
      done += frames;
      onProgress(Math.min(1, done / STEM_RATE / expectedS));
      await setImmediate();
    }
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
  }
}

class ArrivingSound {
  private readonly raw: Stereo;
  private readonly mono: boolean;
  private readonly chain: Chain;
  private readonly delay: DelayLine | null;
  private readonly out: Stereo;

  constructor({ delayFrames, mono, processing = [] }: SoundFile, raw: Stereo) {
    this.raw = raw;
    this.chain = new Chain(processing, STEM_RATE);
    this.mono = mono;
    this.delay = delayFrames > 0 ? new DelayLine(delayFrames, 0) : null;
    this.out = this.delay || mono || !this.chain.isEmpty ? newStereo(PORTION_FRAMES) : raw;
  }

  next(frames: number): Stereo {
    const { raw, out } = this;
    if (out === raw) return raw;
    for (let side = 0; side < 2; side++) out[side].set(raw[side].subarray(0, frames));
    this.chain.process(out, 0, frames);
    if (this.delay) this.delay.process(out, false, 0, frames, out);
    if (this.mono) {
      const [left, right] = out;
      for (let i = 0; i < frames; i++) {
        const mean = (left[i] + right[i]) * 0.5;
        out[0][i] = mean;
        out[1][i] = mean;
      }
    }
    return out;
  }
}
