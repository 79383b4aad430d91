import type { Finding } from '../findings/finding.ts';
import { eachFinding, findingsOf, stillStands } from '../findings/findings.ts';
import type { Edit, SimpleEdit } from '../setup/edits.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { attempt } from './attempt.ts';
import type { Candidate } from './candidate.ts';
import { candidatesFor } from './candidates.ts';
import { chainMoves } from './chainMoves.ts';
import { distanceOf, type Wanted, wantedOf } from './distance.ts';
import { givenUp } from './givesUp.ts';
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
  /** What it gives up of what is wanted, in words. One that gives something up is no remedy: it is offered apart, and last. */
  givesUp: string[];
}

/** As many single moves are tried in pairs when none removes the finding by itself. */
const PAIRED = 8;
/** No more remedies than this are offered. */
const OFFERED = 4;

/** A candidate that removes the finding, with what it is compared by. */
interface Tried {
  remedy: Remedy;
  /** How many findings it brings. */
  added: number;
  /** How far the setup is then from what is wanted: see `distanceOf`. */
  distance: number;
  order: number;
}

/** What gives nothing up comes first, then what comes nearest to what is wanted, then what takes the least by hand. */
function compare(a: Tried, b: Tried): number {
  return (
    Number(a.remedy.givesUp.length > 0) - Number(b.remedy.givesUp.length > 0) ||
    a.distance - b.distance ||
    a.added - b.added ||
    a.remedy.handwork.length - b.remedy.handwork.length ||
    a.order - b.order
  );
}

/**
 * Returns the remedies of a finding, the best first: a small search over edits. Each candidate is tried on the setup: it
 * is offered only when the finding is gone afterwards and no new stop-finding has come. The one after which the setup is
 * nearest to what is wanted comes first (see `distanceOf`). Single changes of the wiring are tried in pairs when none helps
 * alone. What gives up something that is wanted is marked so and comes last.
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
  if (tried.every(({ remedy }) => remedy.givesUp.length > 0)) {
    for (const candidate of lastResorts(setup, finding)) tried.push(...trial.of(candidate, tried.length));
  }
  const whole = tried.filter(({ remedy }) => remedy.givesUp.length === 0);
  const clean = whole.filter((one) => one.added === 0);
  const offered = (clean.length > 0 ? clean : whole).sort(compare).slice(0, OFFERED);
  const apart = tried
    .filter(({ remedy }) => remedy.givesUp.length > 0)
    .filter((one, at, all) => all.findIndex(({ remedy }) => remedy.label === one.remedy.label) === at)
    .sort(compare);
  return [...offered, ...apart.slice(0, OFFERED)].map(({ remedy }) => remedy);
}

/**
 * Returns ways to bring a source to the recorder apart from those that it is fused with, the one that takes the least
 * work by hand first; none raises a stop-finding.
 */
export function separationsOf(setup: Setup, source: Source, today: string): Remedy[] {
  const trial = new Trial(setup, null, today, findingsOf(setup, today));
  return separations(setup, source)
    .flatMap((candidate, order) => trial.of(candidate, order))
    .sort((a, b) => a.added - b.added || compare(a, b))
    .map(({ remedy }) => remedy);
}

/** Tries candidates for one finding, or (without one) just whether they can be done. */
class Trial {
  private readonly before: Set<string>;
  private readonly setup: Setup;
  private readonly finding: Finding | null;
  private readonly today: string;
  private readonly wanted: Wanted;
  /** What setups came out so far, but for what is wanted: two ways to one end are offered once. */
  private readonly seen = new Set<string>();

  constructor(setup: Setup, finding: Finding | null, today: string, before: Finding[]) {
    this.setup = setup;
    this.finding = finding;
    this.today = today;
    this.before = new Set(before.map(({ id }) => id));
    this.wanted = wantedOf(setup);
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
        remedy: {
          ...{ label, edit, handwork, findingsAfter: findings.length },
          givesUp: givenUp(this.setup, edits, this.today),
        },
        added: added.length,
        distance: distanceOf(after, this.today, this.wanted),
        order,
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

function asEdit(label: string, edits: SimpleEdit[]): Edit {
  return { edit: 'batch', label: label.slice(0, 120), edits };
}
