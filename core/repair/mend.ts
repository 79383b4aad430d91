import { openFindings } from '../findings/accepted.ts';
import { findingsOf } from '../findings/findings.ts';
import type { Setup } from '../setup/schema.ts';
import { Judge } from './judge.ts';
import { type Remedy, remedyOf, repairsOf } from './remedies.ts';

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
 * Takes the first remedy of the gravest cause, again and again, until neither a stop nor a warning has a remedy left. What is wanted
 * is never given up. @param today `YYYY-MM-DD`
 */
export function mend(setup: Setup, today: string): Mended {
  const steps: MendingStep[] = [];
  let now = setup;
  for (let step = 0; step < MOST_STEPS; step++) {
    const next = nextStep(now, today);
    if (!next) break;
    steps.push(next.step);
    now = next.setup;
  }
  return {
    setup: now,
    steps,
    stopStands: openFindings(now, findingsOf(now, today)).some(({ severity }) => severity === 'stop'),
  };
}

function nextStep(setup: Setup, today: string): { step: MendingStep; setup: Setup } | null {
  const findings = openFindings(setup, findingsOf(setup, today)).filter(
    ({ severity }) => severity !== 'note',
  );
  if (findings.length === 0) return null;
  const judge = new Judge(setup, today);
  for (const finding of findings) {
    const [repair] = repairsOf(judge, finding);
    // Every step comes nearer to what is wanted, so that mending ends.
    if (!repair || repair.after.total >= judge.first.total) continue;
    const { id, code, message } = finding;
    return {
      step: { finding: { id, code, message }, remedy: remedyOf(judge.first, repair) },
      setup: repair.after.setup,
    };
  }
  return null;
}
