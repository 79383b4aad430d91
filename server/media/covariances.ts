import { ArrivingSounds, type Sound } from '../../core/engine/arrivingSounds.ts';
import type { Processed } from '../../core/engine/sourceChains.ts';
import { CovarianceMeter, type Covariances } from '../../core/measure/covariance.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { PORTION_FRAMES, pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';

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
    const arriving = new ArrivingSounds(sources, sounds, PORTION_FRAMES);
    const meter = new CovarianceMeter(STEM_RATE, sounds.length);
    const tailFrames = Math.max(0, ...sounds.map(({ delayFrames }) => delayFrames));
    await pass(stems, (inputs, frames) => meter.add(arriving.next(inputs, frames), frames), {
      tailFrames,
      onProgress,
    });
    return meter.result();
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
  }
}
