import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { attempt } from '../repair/attempt.ts';
import type { Candidate } from '../repair/candidate.ts';
import { worsened } from '../repair/compare.ts';
import { handworkOf } from '../repair/handwork.ts';
import { Judge, type Judged } from '../repair/judge.ts';
import { otherDefaults } from '../repair/moves/outputs.ts';
import { type Remedy, remedyOf, repairsOf, withChanges } from '../repair/remedies.ts';
import { asEdit, labelOf } from '../repair/search.ts';
import { wantedOf } from '../repair/wanted.ts';
import type { Setup } from '../setup/schema.ts';
import type { Drill } from './drill.ts';
import { newFindings } from './run.ts';

/** No more safeguards than this are offered, and as many findings of the drill are looked into. */
const OFFERED = 3;
/** A safeguard is worth its work from this much on, in the unit of the measure. */
const WORTH = 1;

/**
 * Returns changes of the setup after which the drill does less harm, the best first: measured as remedies are (see `Judge`), in
 * the state that the drill leaves the setup in. In the setup itself nothing gets worse, and nothing that is wanted is given up.
 */
export function safeguardsFor(setup: Setup, drill: Drill, today: string): Remedy[] {
  const struck = drill.strike(setup);
  if (!struck) return [];
  const judge = new Judge(setup, today);
  const known = findingsOf(setup, today);
  if (struck.scene !== undefined) return bestOf(mendedIn(judge, newFindings(known, struck, today)));
  const harmed = new Judge(struck.setup, today, { ...wantedOf(struck.setup), places: judge.wanted.places });
  const acts = [
    ...defaultChoices(setup).map((one) => [one]),
    ...newFindings(known, struck, today)
      .slice(0, OFFERED)
      .flatMap((finding) => repairsOf(harmed, finding).slice(0, OFFERED))
      .map((repair) => repair.acts),
  ];
  return bestOf(acts.flatMap((one) => tried(setup, drill, judge, harmed, one)));
}

/** A remedy, and what is left of the harm after it. */
interface Tried {
  total: number;
  remedy: Remedy;
}

function bestOf(found: Tried[]): Remedy[] {
  return found
    .sort((a, b) => a.total - b.total || a.remedy.handwork.length - b.remedy.handwork.length)
    .filter(({ remedy }, at, all) => all.findIndex((other) => other.remedy.label === remedy.label) === at)
    .slice(0, OFFERED)
    .map(({ remedy }) => remedy);
}

/** A scene changes nothing of the setup: what stands in it is mended in the setup itself. */
function mendedIn(judge: Judge, findings: Finding[]): Tried[] {
  return findings
    .slice(0, OFFERED)
    .flatMap((finding) => repairsOf(judge, finding).slice(0, OFFERED))
    .map((repair) => ({ total: repair.after.total, remedy: remedyOf(judge.first, repair) }));
}

/** What is left of the harm when the drill comes after some acts; nothing where they harm the setup, or do not help. */
function tried(setup: Setup, drill: Drill, judge: Judge, harmed: Judge, acts: Candidate[]): Tried[] {
  const edit = asEdit(acts);
  const safe = attempt(setup, edit);
  const again = safe && drill.strike(safe);
  if (!safe || !again) return [];
  const own: Judged = judge.judge(safe, judge.first);
  if (worsened(judge.first, own)) return [];
  const { total } = harmed.judge(again.setup);
  if (total > harmed.first.total - WORTH) return [];
  const handwork = handworkOf(setup, edit);
  const remedy = withChanges(judge.first, own, { label: labelOf(acts), edit, handwork, givesUp: [] });
  return [{ total, remedy }];
}

/** Every other choice of a default output that could make falling back harmless. */
function defaultChoices(setup: Setup): Candidate[] {
  return setup.machines
    .filter((machine) => machine.defaultOutput)
    .flatMap((machine) => otherDefaults(setup, machine));
}
