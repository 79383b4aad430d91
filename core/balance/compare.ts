import { SAMPLE_RATE } from '../audio/planes.ts';
import { latencyFrames } from '../processors/latency.ts';
import { type Processing, stepsOn } from '../processors/processing.ts';

/** A trim goes no further (dB). */
const MOST_DB = 40;

/** The loudness with a processing and without it (LUFS); null in silence. */
export interface WithAndWithout {
  withIt: number | null;
  without: number | null;
}

/**
 * Returns what is to be heard instead of a processing, to compare with it: another one (none; or all steps but one), as loud
 * and as late.
 * @returns null where one of them is silent
 */
export function asLoudWithout(
  { withIt, without }: WithAndWithout,
  processing: Processing,
  other: Processing = [],
): { processing: Processing; gainDb: number } | null {
  if (withIt === null || without === null) return null;
  const gainDb = Math.max(-MOST_DB, Math.min(MOST_DB, Math.round(10 * (withIt - without)) / 10));
  const frames = latencyFrames(processing, SAMPLE_RATE) - latencyFrames(other, SAMPLE_RATE);
  return {
    gainDb,
    processing: [
      ...stepsOn(other),
      { does: 'trim', gainDb },
      ...(frames > 0 ? [{ does: 'delay' as const, delayMs: (1000 * frames) / SAMPLE_RATE }] : []),
    ],
  };
}
