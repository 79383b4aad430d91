import { withFft } from '../../core/measure/fft.ts';
import {
  AROUND_FRAMES,
  BANDS,
  type Fingerprint,
  FingerprintMeter,
  HOP,
} from '../../core/measure/presence/fingerprint.ts';
import { toMono } from '../../core/signal/mono.ts';
import { AudioFile } from './audioFile.ts';
import { PORTION_FRAMES, pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { UntilDamage } from './untilDamage.ts';

/** The fingerprints of tracks, each as far as it can be decoded; and what is wrong with one of them, or null. */
export interface TakenPrints {
  prints: Fingerprint[];
  /** How long the file says that it is (s). */
  saidS: number;
  problem: string | null;
}

/** A part of a fingerprint: from one of its frames up to another, or to the end. */
export interface PrintPart {
  fromFrame: number;
  untilFrame: number | null;
}

/** A part is read from so many frames before it on, so that it is as in the whole: what stands out is told from what is around it. */
const LEAD_FRAMES = 2 * AROUND_FRAMES + 2;
const WHOLE: PrintPart = { fromFrame: 0, untilFrame: null };

/** Takes the fingerprints of some tracks of a file (counted from zero), in one pass. @throws {MediaError} when it cannot be opened */
export async function fingerprintsOf(
  path: string,
  tracks: number[],
  onProgress: (share: number) => void = () => {},
  { fromFrame, untilFrame }: PrintPart = WHOLE,
): Promise<TakenPrints> {
  const lead = Math.min(fromFrame, LEAD_FRAMES);
  const fromS = ((fromFrame - lead) * HOP) / STEM_RATE;
  const count = untilFrame === null ? Number.POSITIVE_INFINITY : untilFrame - fromFrame;
  const mostFrames = (count + lead + LEAD_FRAMES) * HOP;
  const file = await AudioFile.open(path, { allowCut: true });
  const stems = tracks.map((track) => new UntilDamage(Stem.of(file, track, { fromS })));
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
        { mostFrames, onProgress },
      );
      return {
        prints: meters.map((meter) => partOf(meter.result(), lead, count)),
        saidS: file.tracks[tracks[0]]?.durationS ?? 0,
        problem: stems.find(({ problem }) => problem !== null)?.problem ?? null,
      };
    });
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    file.close();
  }
}

/** So many frames of a fingerprint, from one on. */
function partOf({ frames, values, soundingS }: Fingerprint, from: number, count: number): Fingerprint {
  const until = Math.min(frames, from + count);
  return {
    frames: Math.max(0, until - from),
    values: values.slice(from * BANDS, until * BANDS),
    soundingS,
  };
}
