import { withFft } from '../../core/measure/fft.ts';
import { type Fingerprint, FingerprintMeter } from '../../core/measure/presence/fingerprint.ts';
import { toMono } from '../../core/signal/mono.ts';
import { AudioFile } from './audioFile.ts';
import { PORTION_FRAMES, pass } from './pass.ts';
import { Stem } from './stem.ts';
import { UntilDamage } from './untilDamage.ts';

/** The fingerprints of tracks, each as far as it can be decoded; and what is wrong with one of them, or null. */
export interface TakenPrints {
  prints: Fingerprint[];
  problem: string | null;
}

/** Takes the fingerprints of some tracks of a file (counted from zero), in one pass. @throws {MediaError} when it cannot be opened */
export async function fingerprintsOf(
  path: string,
  tracks: number[],
  onProgress: (share: number) => void = () => {},
): Promise<TakenPrints> {
  const file = await AudioFile.open(path, { allowCut: true });
  const stems = tracks.map((track) => new UntilDamage(Stem.of(file, track)));
  const mono = new Float32Array(PORTION_FRAMES);
  try {
    return await withFft(async (makeFft) => {
      const meters = tracks.map(() => new FingerprintMeter(makeFft));
      await pass(
        stems,
        (planes, frames) =>
          meters.forEach((meter, at) => {
            const [left, right] = planes[at];
            meter.add(
              toMono([left.subarray(0, frames), right.subarray(0, frames)], mono.subarray(0, frames)),
              frames,
            );
          }),
        { onProgress },
      );
      return {
        prints: meters.map((meter) => meter.result()),
        problem: stems.find(({ problem }) => problem !== null)?.problem ?? null,
      };
    });
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    file.close();
  }
}
