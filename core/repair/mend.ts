import { openFindings } from '../findings/accepted.ts';
import type { Finding } from '../findings/finding.ts';
import { findingsOf, levelFindings } from '../findings/findings.ts';
import type { Setup } from '../setup/schema.ts';
import { Judge } from './judge.ts';
import { type Remedy, remedyOf, repairsOf } from './remedies.ts';
import { OFF_FROM_DB } from './weights.ts';

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
 * Takes the first remedy of the gravest cause, again and again, until neither a stop nor a warning has a remedy left. Then the levels
 * that are still off their wishes by less than a warning are set; a room without a fault keeps its own. What is wanted is never
 * given up.
 * @param today `YYYY-MM-DD`
 */
export function mend(setup: Setup, today: string): Mended {
  const mender = new Mender(setup, today);
  while (mender.steps.length < MOST_STEPS && mender.step());
  if (mender.steps.length > 0) while (mender.steps.length < MOST_STEPS && mender.setLevel());
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
  /** The findings whose remedy another fault spoils: they come after all others. */
  private readonly later = new Set<string>();
  private hasMended = false;
  /** The setups so far: mending never comes back to one. */
  private readonly seen = new Set<string>();

  constructor(setup: Setup, today: string) {
    this.setup = setup;
    this.today = today;
    this.seen.add(JSON.stringify(setup));
  }

  /** Takes the next step. @returns whether there was one */
  step(): boolean {
    const findings = openFindings(this.setup, findingsOf(this.setup, this.today)).filter(
      ({ severity }) => severity !== 'note',
    );
    if (findings.length === 0) return false;
    const judge = new Judge(this.setup, this.today);
    const open = findings.filter(({ id }) => !this.without.has(id));
    const isMended =
      open.some((finding) => !this.later.has(finding.id) && this.isMended(judge, finding, false)) ||
      open.some((finding) => this.later.has(finding.id) && this.isMended(judge, finding, true));
    if (isMended) {
      this.later.clear();
      this.hasMended = true;
      return true;
    }
    if (!this.hasMended || this.without.size === 0) return false;
    this.hasMended = false;
    this.without.clear();
    return this.step();
  }

  /** Sets a level that is off its wish. @returns whether there was one */
  setLevel(): boolean {
    const judge = new Judge(this.setup, this.today);
    const off = openFindings(this.setup, levelFindings(this.setup, this.today, OFF_FROM_DB));
    return off.some((one) => this.isMended(judge, one, true));
  }

  /** @param isLast whether a remedy that another fault spoils is taken all the same */
  private isMended(judge: Judge, finding: Finding, isLast: boolean): boolean {
    const [repair] = repairsOf(judge, finding);
    if (repair?.isOutdone && !isLast) {
      this.later.add(finding.id);
      return false;
    }
    // Every step comes nearer to what is wanted, so that mending ends.
    const key = repair && JSON.stringify(repair.after.setup);
    if (!repair || repair.after.total >= judge.first.total || this.seen.has(key)) {
      this.without.add(finding.id);
      return false;
    }
    this.seen.add(key);
    const { id, code, message } = finding;
    this.steps.push({ finding: { id, code, message }, remedy: remedyOf(judge.first, repair) });
    this.setup = repair.after.setup;
    return true;
  }
}
