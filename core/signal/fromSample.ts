import type { Calibration } from '../measure/calibrate.ts';
import { NEW_PROCESSORS, type Processing } from '../setup/processing.ts';

/** Speech is brought to this level (RMS, dBFS). */
const SPEECH_DB = -20;
/** What is done at a line of a hum: narrow and deep, so that the voice beside it stays. */
const HUM_CUT = { does: 'band', shape: 'bell', gainDb: -18, q: 12 } as const;

/**
 * Proposes a processing from what was read from a passage of a voice: a high-pass (and narrow cuts at the lines of a hum), a
 * trim that brings speech to −20 dBFS, and, when it would not chop words, a gate. The gate opens where it was read; it comes
 * before the trim. Steps of other kinds that are there already stay, behind.
 */
export function processingFrom(found: Calibration, known: Processing): Processing {
  const kept = known.filter(
    (step) => step.does === 'compressor' || (step.does === 'band' && !isHumCut(step)),
  );
  const lines = found.hum ? [1, 2, 3].map((harmonic) => harmonic * (found.hum?.hz ?? 50)) : [];
  const cuts = lines.map((hz) => ({ ...HUM_CUT, hz }));
  const opens = found.gateDb !== null && !found.gateChops ? rounded(found.gateDb) : null;
  const trim = found.speechDb === null ? 0 : rounded(SPEECH_DB - found.speechDb);
  return [
    { does: 'high-pass', hz: 80 },
    ...cuts,
    ...(opens === null ? [] : [{ ...NEW_PROCESSORS.gate, opensDb: opens }]),
    ...(Math.abs(trim) < 0.5 ? [] : [{ does: 'trim' as const, gainDb: Math.max(-40, Math.min(40, trim)) }]),
    ...kept,
  ];
}

function isHumCut({ q, gainDb }: { q: number; gainDb: number }): boolean {
  return q === HUM_CUT.q && gainDb === HUM_CUT.gainDb;
}

function rounded(db: number): number {
  return Math.round(db * 10) / 10;
}
