import { openFindings } from '../findings/accepted.ts';
import type { Finding } from '../findings/finding.ts';
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
  const mender = new Mender(setup, today);
  while (mender.steps.length < MOST_STEPS && mender.step());
  const now = mender.setup;
  return {
    setup: now,
    steps: mender.steps,
    stopStands: openFindings(now, findingsOf(now, today)).some(({ severity }) => severity === 'stop'),
  };
}

/** Mends a setup step by step. */
class Mender {
  setup: Setup;
  readonly steps: MendingStep[] = [];
  private readonly today: string;
  /** The findings that had no remedy; they are looked at again once nothing else is left to mend. */
  private readonly without = new Set<string>();
  private hasMended = false;

  constructor(setup: Setup, today: string) {
    this.setup = setup;
    this.today = today;
  }

  /** Takes the next step. @returns whether there was one */
  step(): boolean {
    const findings = openFindings(this.setup, findingsOf(this.setup, this.today)).filter(
      ({ severity }) => severity !== 'note',
    );
    if (findings.length === 0) return false;
    const judge = new Judge(this.setup, this.today);
    if (findings.some((finding) => !this.without.has(finding.id) && this.isMended(judge, finding))) {
      this.hasMended = true;
      return true;
    }
    if (!this.hasMended || this.without.size === 0) return false;
    this.hasMended = false;
    this.without.clear();
    return this.step();
  }

  private isMended(judge: Judge, finding: Finding): boolean {
    const [repair] = repairsOf(judge, finding);
    // Every step comes nearer to what is wanted, so that mending ends.
    if (!repair || repair.after.total >= judge.first.total) {
      this.without.add(finding.id);
      return false;
    }
    const { id, code, message } = finding;
    this.steps.push({ finding: { id, code, message }, remedy: remedyOf(judge.first, repair) });
    this.setup = repair.after.setup;
    return true;
  }
}
