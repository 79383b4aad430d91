import { PROCESSORS, type Processing } from '../processors/processing.ts';

/** Everything that may be done to a voice, for tests. */
export const WORKED_VOICE: Processing = [
  { does: 'high-pass', hz: 80 },
  { does: 'noise reduction', reduceDb: 12 },
  PROCESSORS.gate.initial,
  { does: 'band', shape: 'bell', hz: 3000, gainDb: 4, q: 1 },
  PROCESSORS.compressor.initial,
  PROCESSORS.leveller.initial,
  PROCESSORS.echo.initial,
  PROCESSORS.reverb.initial,
  { does: 'limiter', ceilingDbtp: -6, releaseMs: 80 },
];
