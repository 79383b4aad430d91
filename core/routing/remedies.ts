import type { Edit, SimpleEdit } from '../setup/edits.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { attempt } from './attempt.ts';
import { type Candidate, candidatesFor } from './candidates.ts';
import { chainMoves } from './chainMoves.ts';
import type { Finding } from './finding.ts';
import { eachFinding, findingsOf, stillStands } from './findings.ts';
import { handworkOf } from './handwork.ts';
import { lastResorts } from './lastResorts.ts';
import { separations } from './separate.ts';

/** A change that removes a finding: what to do, in words, and the edit that does it. */
export interface Remedy {
  label: string;
  edit: Edit;
  /** What the creator must do on their real machines to make it true; empty when Northfen does it all. */
  handwork: string[];
  /** How many findings are left once it is applied. */
  findingsAfter: number;
}

/** As many single moves are tried in pairs when none removes the finding by itself. */
const PAIRED = 8;
/** No more remedies than this are offered. */
const OFFERED = 4;

/** What a remedy costs: each thing done by hand, and to give up a sound that was wanted. */
const HAND_COST = 10;
const GIVING_UP = 100;

/** A candidate that removes the finding, with what it costs. */
interface Tried {
  remedy: Remedy;
  added: number;
  cost: number;
}

/**
 * Returns the remedies of a finding, the best first: a small search over edits. Each candidate is tried on the setup: it
 * is offered only when the finding is gone afterwards and no new stop-finding has come. Those that raise no other
 * finding come first, then those that take the fewest things done by hand. Single changes of the wiring are tried in
 * pairs when none helps alone; when pairs do not either, something that is wanted is given up.
 * @param before every finding of the setup, when they are known already
 */
export function remediesFor(
  setup: Setup,
  finding: Finding,
  today: string,
  before: Finding[] = findingsOf(setup, today),
): Remedy[] {
  const trial = new Trial(setup, finding, today, before);
  const singles = [...candidatesFor(setup, finding), ...chainMoves(setup, finding)];
  const tried = singles.flatMap((candidate, order) => trial.of(candidate, order));
  if (tried.length === 0) {
    const some = singles.filter(({ edits }) => edits.length > 0).slice(0, PAIRED);
    for (const [i, one] of some.entries()) {
      for (const other of some.slice(i + 1)) {
        const both = {
          label: `${one.label}, and ${other.label[0].toLowerCase()}${other.label.slice(1)}`,
          edits: [...one.edits, ...other.edits],
        };
        tried.push(...trial.of(both, tried.length));
      }
    }
  }
  if (tried.length === 0) {
    for (const candidate of lastResorts(setup, finding)) tried.push(...trial.of(candidate, tried.length));
  }
  const clean = tried.filter((one) => one.added === 0);
  const ranked = (clean.length > 0 ? clean : tried).sort((a, b) => a.added - b.added || a.cost - b.cost);
  return ranked.slice(0, OFFERED).map(({ remedy }) => remedy);
}

/**
 * Returns ways to bring a source to the recorder apart from those that it is fused with, the one that takes the least
 * work by hand first; none raises a stop-finding.
 */
export function separationsOf(setup: Setup, source: Source, today: string): Remedy[] {
  const trial = new Trial(setup, null, today, findingsOf(setup, today));
  return separations(setup, source)
    .flatMap((candidate, order) => trial.of(candidate, order))
    .sort((a, b) => a.added - b.added || a.cost - b.cost)
    .map(({ remedy }) => remedy);
}

/** Tries candidates for one finding, or (without one) just whether they can be done. */
class Trial {
  private readonly before: Set<string>;
  private readonly setup: Setup;
  private readonly finding: Finding | null;
  private readonly today: string;
  /** What setups came out so far, but for what is wanted: two ways to one end are offered once. */
  private readonly seen = new Set<string>();

  constructor(setup: Setup, finding: Finding | null, today: string, before: Finding[]) {
    this.setup = setup;
    this.finding = finding;
    this.today = today;
    this.before = new Set(before.map(({ id }) => id));
  }

  of({ label, edits }: Candidate, order: number): Tried[] {
    if (edits.length === 0) return [];
    const edit = asEdit(label, edits);
    const after = attempt(this.setup, edit);
    if (!after) return [];
    if (this.finding && stillStands(after, this.today, this.finding)) return [];
    const findings = this.findingsUnlessStopped(after);
    if (!findings) return [];
    const key = `${JSON.stringify([after.sends, after.mixes, after.pickups, after.sources, after.tracks])} ${findings.length}`;
    if (after.sends !== this.setup.sends && this.seen.has(key)) return [];
    this.seen.add(key);
    const added = findings.filter((one) => !this.before.has(one.id));
    const handwork = handworkOf(this.setup, edit);
    return [
      {
        remedy: { label, edit, handwork, findingsAfter: findings.length },
        added: added.length,
        cost:
          handwork.length * HAND_COST +
          (this.finding && givesUp(this.finding, edits) ? GIVING_UP : 0) +
          order / 10,
      },
    ];
  }

  /** The findings of a setup that was tried; null as soon as one of them is a stop that was not there before. */
  private findingsUnlessStopped(setup: Setup): Finding[] | null {
    const findings: Finding[] = [];
    for (const one of eachFinding(setup, this.today)) {
      if (one.severity === 'stop' && !this.before.has(one.id)) return null;
      findings.push(one);
    }
    return findings;
  }
}

/** Tells whether edits make a finding go away by no longer wanting what is missing. */
function givesUp({ code }: Finding, edits: SimpleEdit[]): boolean {
  return (
    (code === 'missing' || code === 'uses' || code === 'swallowed') &&
    edits.some((one) => one.edit === 'setWish' && one.gainDb === null)
  );
}

function asEdit(label: string, edits: SimpleEdit[]): Edit {
  return { edit: 'batch', label: label.slice(0, 120), edits };
}
