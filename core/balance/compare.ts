import { type Covariances, integratedLufs, powersOfMix } from '../measure/covariance.ts';
import type { Processing } from '../setup/processing.ts';
import { latencyFrames } from '../signal/latency.ts';

const FRAMES_PER_MS = 48;
/** A trim goes no further (dB). */
const MOST_DB = 40;

/**
 * Returns what is to be heard instead of a processing, to compare with it: as loud, and as late, as with it.
 * @param covariances of two sounds: with the processing, and without
 * @returns null where one of them is silent
 */
export function asLoudWithout(
  covariances: Covariances,
  processing: Processing,
): { processing: Processing; gainDb: number } | null {
  const [withIt, without] = [
    [1, 0],
    [0, 1],
  ].map((gains) => integratedLufs(powersOfMix(covariances, gains)));
  if (withIt === null || without === null) return null;
  const gainDb = Math.max(-MOST_DB, Math.min(MOST_DB, Math.round(10 * (withIt - without)) / 10));
  const frames = latencyFrames(processing, FRAMES_PER_MS * 1000);
  return {
    gainDb,
    processing: [
      { does: 'trim', gainDb },
      ...(frames > 0 ? [{ does: 'delay' as const, delayMs: frames / FRAMES_PER_MS }] : []),
    ],
  };
}
