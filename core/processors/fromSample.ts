import type { Calibration } from '../measure/calibrate.ts';
import { humCuts, isHumCut } from './humCuts.ts';
import { PROCESSORS, type Processing, type Processor } from './processing.ts';

/** Speech is brought to this level (RMS, dBFS). */
const SPEECH_DB = -20;
/** Noise that would lie above this then is reduced to it, within what a voice bears (dB). */
const QUIET_DB = -62;
const LEAST_REDUCTION_DB = 6;
const MOST_REDUCTION_DB = 24;
/** The steps that are set; those of other kinds stay. */
const SET: Processor['does'][] = ['high-pass', 'noise reduction', 'gate', 'trim'];

/**
 * Proposes a processing from what was read from a passage: a high-pass (and narrow cuts at the lines of a hum), as
 * much noise reduction as the floor of a voice asks for (it would take other sounds for noise), a trim that brings speech to −20 dBFS, and, when it would not chop words, a
 * gate. The gate opens where it was read; it comes before the trim. Steps of other kinds that are there already stay, behind.
 */
export function processingFrom(found: Calibration, known: Processing, isVoice: boolean): Processing {
  const kept = known.filter((step) => !SET.includes(step.does) && !isHumCut(step));
  const cuts = found.hum ? humCuts(found.hum.hz) : [];
  const opens = found.gateDb !== null && !found.gateChops ? rounded(found.gateDb) : null;
  const trim = found.speechDb === null ? 0 : rounded(SPEECH_DB - found.speechDb);
  return [
    { does: 'high-pass', hz: 80 },
    ...cuts,
    ...(isVoice ? reductionFor(found, trim) : []),
    ...(opens === null ? [] : [{ ...PROCESSORS.gate.initial, opensDb: opens }]),
    ...(Math.abs(trim) < 0.5 ? [] : [{ does: 'trim' as const, gainDb: Math.max(-40, Math.min(40, trim)) }]),
    ...kept,
  ];
}

/** Noise reduction for what the floor would be after the trim. Without speech there is nothing to clear. */
function reductionFor({ floorDb, speechDb }: Calibration, trimDb: number): Processing {
  if (floorDb === null || speechDb === null) return [];
  const reduceDb = Math.min(MOST_REDUCTION_DB, Math.round(floorDb + trimDb - QUIET_DB));
  return reduceDb < LEAST_REDUCTION_DB ? [] : [{ does: 'noise reduction', reduceDb }];
}

function rounded(db: number): number {
  return Math.round(db * 10) / 10;
}
