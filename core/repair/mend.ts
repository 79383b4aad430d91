import { openFindings } from '../findings/accepted.ts';
import type { Finding } from '../findings/finding.ts';
import { findingsOf, levelFindings } from '../findings/findings.ts';
import type { Setup } from '../setup/schema.ts';
import { Judge } from './judge.ts';
import { AS_MEANT, type Beginning, beginningsOf, leftWrong } from './lookAhead.ts';
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
/** Other ways are tried only where the straight one took no more steps than this, … */
const MOST_STRAIGHT = 20;
/** … and until they took this many steps together. */
const MOST_LOOKED_AHEAD = 200;

/**
 * Takes the first remedy of the gravest cause, again and again, until neither a stop nor a warning has a remedy left. Then the levels
 * that are still off their wishes by less than a warning are set; a room without a fault keeps its own. What is wanted is never
 * given up. If something is still wrong at the end, other remedies are followed to their end as well, in place of each step from the first
 * on, and the way that ends nearest to what is wanted is taken (a rollout, with the straight way as its policy).
 * @param today `YYYY-MM-DD`
 */
export function mend(setup: Setup, today: string): Mended {
  const judge = new Judge(setup, today);
  const leftOf = ({ setup }: Mender) => leftWrong(judge.judge(setup));
  let best = new Mender(setup, today).mended();
  let left = leftOf(best);
  let stepsLeft = best.steps.length > MOST_STRAIGHT ? 0 : MOST_LOOKED_AHEAD;
  for (let at = 0; at <= best.steps.length && left >= AS_MEANT && stepsLeft > 0; at++) {
    for (const beginning of best.before(at).beginnings()) {
      if (stepsLeft <= 0 || left < AS_MEANT) break;
      const other = best.before(at);
      other.take(beginning);
      const otherLeft = leftOf(other.mended());
      stepsLeft -= other.steps.length - at;
      if (otherLeft < left) [best, left] = [other, otherLeft];
    }
  }
  return {
    setup: best.setup,
    steps: best.steps,
    stopStands: openFindings(best.setup, findingsOf(best.setup, today)).some(
      ({ severity }) => severity === 'stop',
    ),
  };
}

/** Mends a setup step by step. */
class Mender {
  readonly steps: MendingStep[] = [];
  private readonly today: string;
  /** The setup before each step, and the one after the last: mending never comes back to one. */
  private readonly setups: Setup[];
  /** The findings that had no remedy; they are looked at again once nothing else is left to mend. */
  private readonly without = new Set<string>();
  /** The findings whose remedy another fault spoils: they come after all others. */
  private readonly later = new Set<string>();
  private hasMended = false;
  constructor(setup: Setup, today: string) {
    this.setups = [setup];
    this.today = today;
  }

  /** The setup as it is mended so far. */
  get setup(): Setup {
    return this.setups[this.setups.length - 1];
  }

  /** Mends what is left. @returns itself */
  mended(): this {
    while (this.steps.length < MOST_STEPS && this.step());
    if (this.steps.length > 0) while (this.steps.length < MOST_STEPS && this.setLevel());
    return this;
  }

  /** Returns one that took the same steps as far as before one of them. */
  before(at: number): Mender {
    const other = new Mender(this.setups[0], this.today);
    other.steps.push(...this.steps.slice(0, at));
    other.setups.push(...this.setups.slice(1, at + 1));
    return other;
  }

  /** The steps that could be taken now, the one that comes nearest to what is wanted first. */
  beginnings(): Beginning[] {
    const judge = new Judge(this.setup, this.today);
    return beginningsOf(judge, this.open()).filter(({ repair }) => !this.wasAt(repair.after.setup));
  }

  /** Takes a step. */
  take({ judge, finding, repair }: Beginning): void {
    const { id, code, message } = finding;
    this.steps.push({ finding: { id, code, message }, remedy: remedyOf(judge.first, repair) });
    this.setups.push(repair.after.setup);
  }

  /** Takes the next step. @returns whether there was one */
  private step(): boolean {
    const findings = this.open();
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
  private setLevel(): boolean {
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
    if (!repair || repair.after.total >= judge.first.total || this.wasAt(repair.after.setup)) {
      this.without.add(finding.id);
      return false;
    }
    this.take({ judge, finding, repair });
    return true;
  }

  private open(): Finding[] {
    return openFindings(this.setup, findingsOf(this.setup, this.today)).filter(
      ({ severity }) => severity !== 'note',
    );
  }

  private wasAt(setup: Setup): boolean {
    const written = JSON.stringify(setup);
    return this.setups.some((one) => JSON.stringify(one) === written);
  }
}
