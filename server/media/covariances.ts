import { setImmediate } from 'node:timers/promises';
import { newStereo } from '../../core/audio/planes.ts';
import { ArrivingSounds, type Sound } from '../../core/engine/arrivingSounds.ts';
import type { Processed } from '../../core/engine/sourceChains.ts';
import { CovarianceMeter, type Covariances } from '../../core/measure/covariance.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { STEM_RATE, Stem } from './stem.ts';

const PORTION_FRAMES = STEM_RATE / 2;

/** A source, and the file that its recording is in. */
export interface SourceFile extends Processed {
  file: string;
}

/**
 * Measures the covariances of sounds of recordings that start together, each as it arrives.
 * @param onProgress called with the share that is done, 0 to 1
 */
export async function measureCovariances(
  sources: SourceFile[],
  sounds: Sound[],
  onProgress: (share: number) => void = () => {},
): Promise<Covariances> {
  await loadNoiseReduction();
  const stems: Stem[] = [];
  try {
    for (const { file } of sources) stems.push(await Stem.open(file, 0, { allowCut: true }));
    const inputs = sources.map(() => newStereo(PORTION_FRAMES));
    const arriving = new ArrivingSounds(sources, sounds, PORTION_FRAMES);
    const meter = new CovarianceMeter(STEM_RATE, sounds.length);
    const latest = Math.max(0, ...sounds.map(({ delayFrames }) => delayFrames));
    const expectedS = Math.max(...stems.map((stem) => stem.expectedS), 0.001);
    for (let done = 0, tail = latest; ; ) {
      let frames = 0;
      for (const [index, stem] of stems.entries())
        frames = Math.max(frames, await stem.read(inputs[index], PORTION_FRAMES));
      if (frames === 0) {
        frames = Math.min(tail, PORTION_FRAMES);
        tail -= frames;
      }
      if (frames === 0) return meter.result();
      meter.add(arriving.next(inputs, frames), frames);
      done += frames;
      onProgress(Math.min(1, done / STEM_RATE / expectedS));
      await setImmediate();
    }
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
  }
}
