import { findingsOf } from '../findings/findings.ts';
import { applyEdit } from '../setup/edits.ts';
import { parseSetup } from '../setup/file.ts';
import type { Setup } from '../setup/schema.ts';
import { type Remedy, remediesFor } from './remedies.ts';

/** One step of mending: what was found, and what was done about it. */
export interface MendingStep {
  finding: { id: string; code: string; message: string };
  remedy: Remedy;
}

/** A mended setup, how it was mended, and whether a stop still stands. */
export interface Mended {
  setup: Setup;
  steps: MendingStep[];
  stopStands: boolean;
}

/** A setup that is not mended after so many steps goes round in a circle. */
const MOST_STEPS = 200;

/**
 * Takes the first remedy of the gravest finding, again and again, until neither a stop nor a warning has a remedy left. What is wanted
 * is never given up. @param today `YYYY-MM-DD`
 */
export function mend(setup: Setup, today: string): Mended {
  const steps: MendingStep[] = [];
  let now = setup;
  for (let step = 0; step < MOST_STEPS; step++) {
    const next = nextStep(now, today);
    if (!next) break;
    steps.push(next);
    now = parseSetup(applyEdit(now, next.remedy.edit));
  }
  return {
    setup: now,
    steps,
    stopStands: findingsOf(now, today).some(({ severity }) => severity === 'stop'),
  };
}

function nextStep(setup: Setup, today: string): MendingStep | null {
  const findings = findingsOf(setup, today);
  for (const finding of findings.filter(({ severity }) => severity !== 'note')) {
    const remedy = remediesFor(setup, finding, today, findings).find(({ givesUp }) => givesUp.length === 0);
    const { id, code, message } = finding;
    if (remedy) return { finding: { id, code, message }, remedy };
  }
  return null;
}
