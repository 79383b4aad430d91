import { SAMPLE_RATE } from '../audio/planes.ts';
import { responseDb } from '../signal/biquad.ts';
import { kindOf, type Processing, type Processor, stepsOn } from './processing.ts';

/** What is done at a line of a hum: narrow and deep, so that the voice beside it stays. */
const HUM_CUT = { does: 'band', shape: 'bell', gainDb: -18, q: 12 } as const;
/** The lines that are cut: the mains frequency, and two harmonics. */
const HARMONICS = [1, 2, 3];
/** Below this lies no voice, but most of a hum's power (Hz). */
const HIGH_PASS_HZ = 80;
/** A line is cut out when filters make it so much quieter (dB). */
const CUT_OUT_DB = 10;

/** The cuts for a hum: one step for each of its strongest lines. */
export function humCuts(mainsHz: number): Processing {
  return HARMONICS.map((harmonic) => ({ ...HUM_CUT, hz: harmonic * mainsHz }));
}

/** Tells whether a step is one of those cuts. */
export function isHumCut(step: Processor): boolean {
  return step.does === 'band' && step.q === HUM_CUT.q && step.gainDb === HUM_CUT.gainDb;
}

/** Returns a processing with a hum cut out of it first: a high-pass, unless there is one, and the cuts. */
export function withHumCut(processing: Processing, mainsHz: number): Processing {
  const isThere = stepsOn(processing).some(({ does }) => does === 'high-pass');
  return [
    ...(isThere ? [] : [{ does: 'high-pass' as const, hz: HIGH_PASS_HZ }]),
    ...humCuts(mainsHz),
    ...processing.filter((step) => !isHumCut(step)),
  ];
}

/** Tells whether the filters of a processing make the strongest lines of a hum quieter by 10 dB or more. */
export function isHumCutOut(processing: Processing, mainsHz: number): boolean {
  const filters = stepsOn(processing).flatMap((step) => kindOf(step).filter?.(step, SAMPLE_RATE) ?? []);
  return HARMONICS.every((harmonic) => {
    const hz = harmonic * mainsHz;
    return filters.reduce((sum, filter) => sum + responseDb(filter, hz, SAMPLE_RATE), 0) <= -CUT_OUT_DB;
  });
}
