import { NEW_PROCESSORS, type Processing } from '../processors/processing.ts';

/** Everything that may be done to a voice, for tests. */
export const WORKED_VOICE: Processing = [
  { does: 'high-pass', hz: 80 },
  { does: 'noise reduction', reduceDb: 12 },
  NEW_PROCESSORS.gate,
  { does: 'band', shape: 'bell', hz: 3000, gainDb: 4, q: 1 },
  NEW_PROCESSORS.compressor,
  { does: 'limiter', ceilingDbtp: -6, releaseMs: 80 },
];
