import { MOST_STEPS, PROCESSORS, type Processing, type Processor } from '../processors/processing.ts';
import { type Destination, wholeOf } from '../reach/destinations.ts';
import { processingOf } from '../setup/bearers.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import { processEdit } from '../setup/processEdit.ts';
import type { Setup } from '../setup/schema.ts';

/** Returns the true peak (dBTP) that a limiter at the end of everything lets through; infinite where there is none. */
export function peakHeldAt(setup: Setup, destination: Destination): number {
  const last = processingOf(setup, wholeOf(destination)).findLast(canRaiseAPeak);
  return last?.does === 'limiter' ? last.ceilingDbtp : Number.POSITIVE_INFINITY;
}

/** The edit that has a limiter hold a true peak at a destination; null where one does, or there is no room for its step. */
export function limiterEdit(setup: Setup, destination: Destination, ceilingDbtp: number): SimpleEdit | null {
  if (peakHeldAt(setup, destination) <= ceilingDbtp) return null;
  const bearer = wholeOf(destination);
  const processing = processingOf(setup, bearer);
  const last = processing.findLastIndex(canRaiseAPeak);
  const limiter: Processor = { ...PROCESSORS.limiter.initial, ceilingDbtp };
  const next: Processing =
    processing[last]?.does === 'limiter'
      ? processing.map((step, i) => (i === last ? { ...step, ...limiter } : step))
      : [...processing, limiter];
  return next.length > MOST_STEPS ? null : processEdit(setup, bearer, next);
}

function canRaiseAPeak({ does, off }: Processor): boolean {
  return !off && does !== 'polarity' && does !== 'delay';
}
