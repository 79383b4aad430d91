import { openFindings } from '../findings/accepted.ts';
import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { applyEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { Judge, type Judged } from './judge.ts';
import { givingUp, type Remedy, remedyOf, repairsOf } from './remedies.ts';
import type { Repair } from './search.ts';

/** One thing that is wrong in a room: what mends it, and everything that it brings. */
export interface Cause {
  /** The gravest finding that it brings. */
  finding: Finding;
  /** Every finding that goes with it, the gravest first; the first is {@link finding}. */
  brings: Finding[];
  /** What mends it without giving up anything that is wanted, the best first; empty where nothing does. */
  remedies: Remedy[];
  /** What ends it by no longer wanting something: apart, and last. */
  givingUp: Remedy[];
  /** Why there is no remedy; null where there is one. */
  whyNone: 'others first' | 'no change' | 'not looked for' | null;
}

/**
 * Groups the findings of a setup by their causes. What mends the gravest finding best is its first remedy, and what goes away with that
 * is what its cause brings.
 * @param today `YYYY-MM-DD`
 * @param isOver asked before each cause; once it is true, the findings that are left stand alone, without a remedy
 */
export function causesOf(
  setup: Setup,
  today: string,
  findings: Finding[] = openFindings(setup, findingsOf(setup, today)),
  isOver: () => boolean = () => false,
): Cause[] {
  const judge = new Judge(setup, today);
  const causes: Cause[] = [];
  let left = findings;
  /** The setup with the first remedy of every cause so far. */
  let mended: Judged = judge.first;
  while (left.length > 0) {
    const [finding] = left;
    const isLate = isOver();
    const repairs = isLate ? [] : repairsOf(judge, finding);
    const brings = [finding, ...broughtBy(repairs[0], left, today)];
    const whyNone = repairs.length > 0 ? null : isLate ? 'not looked for' : 'no change';
    causes.push({
      ...{ finding, brings, whyNone },
      remedies: repairs.slice(0, MOST_REMEDIES).map((repair) => remedyOf(judge.first, repair)),
      givingUp: isLate ? [] : givingUp(judge, finding),
    });
    if (repairs[0]) mended = joined(judge, mended, repairs[0]);
    left = left.filter((one) => !brings.includes(one));
  }
  return gathered(causes, judge, mended, today);
}

const MOST_REMEDIES = 4;

/** The findings that go away with a repair, beside the first of a list. */
function broughtBy(repair: Repair | undefined, [first, ...others]: Finding[], today: string): Finding[] {
  if (!repair) return [];
  const after = new Set(findingsOf(repair.after.setup, today).map(({ id }) => id));
  return after.has(first.id) ? [] : others.filter(({ id }) => !after.has(id));
}

function joined(judge: Judge, mended: Judged, { acts }: Repair): Judged {
  try {
    return judge.judge(acts.flatMap(({ edits }) => edits).reduce(applyEdit, mended.setup), mended);
  } catch {
    return mended;
  }
}

/** What has no remedy by itself may go with others, or be mended once they are. */
function gathered(causes: Cause[], judge: Judge, mended: Judged, today: string): Cause[] {
  if (causes.every(({ whyNone }) => whyNone !== 'no change')) return causes;
  const after = findingsOf(mended.setup, today);
  return causes.map((cause): Cause => {
    if (cause.whyNone !== 'no change') return cause;
    const still = after.find(({ id }) => id === cause.finding.id);
    const isMendedThen = !still || repairsOf(judge, still, mended).length > 0;
    return isMendedThen ? { ...cause, whyNone: 'others first' } : cause;
  });
}
