import { openFindings } from '../findings/accepted.ts';
import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import type { Setup } from '../setup/schema.ts';
import { attempt } from './attempt.ts';
import { worsened } from './compare.ts';
import { Judge, type Judged } from './judge.ts';
import { AS_MEANT, type Beginning, beginningsOf, leftWrong } from './lookAhead.ts';
import { givingUp, type Remedy, remedyOf, repairsOf } from './remedies.ts';
import { asEdit, faultOf, labelOf, type Repair } from './search.ts';

/** One thing that is wrong in a room: what mends it, and everything that it brings. */
export interface Cause {
  /** What is wrong, as a sentence without its full stop; null where nothing is known that mends it. */
  name: string | null;
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

const MOST_REMEDIES = 4;

/** Where the first remedies leave something wrong, this many others are followed to their end. */
const MOST_LOOKED_AHEAD = 10;
/** With more causes than this, no other remedies are followed: one of them would not decide how the room ends. */
const MOST_CAUSES = 12;

/** How causes are looked for. */
export interface CausesOptions {
  /** Asked before each cause; once it is true, the findings that are left stand alone, without a remedy. */
  isOver?: () => boolean;
  /** False where the findings are not all that is wrong: then something stays wrong whatever is done. */
  looksAhead?: boolean;
}

/**
 * Groups the findings of a setup by their causes. What mends the gravest finding best is its first remedy, and what goes away with that
 * is what its cause brings; then the next, as if that were done already. What would do harm as long as others stand is not offered
 * before they are mended. If something is still wrong after all first remedies, others are tried in place of the first one, and the one
 * that ends nearest to what is wanted is offered first.
 * @param today `YYYY-MM-DD`
 */
export function causesOf(
  setup: Setup,
  today: string,
  findings: Finding[] = openFindings(setup, findingsOf(setup, today)),
  { isOver = () => false, looksAhead = true }: CausesOptions = {},
): Cause[] {
  const judge = new Judge(setup, today);
  let best = grouped(judge, findings, isOver);
  if (looksAhead && best.left >= AS_MEANT && best.causes.length <= MOST_CAUSES && !isOver()) {
    const grave = findings.filter(({ severity }) => severity !== 'note');
    for (const beginning of beginningsOf(judge, grave).slice(0, MOST_LOOKED_AHEAD)) {
      if (best.left < AS_MEANT || isOver()) break;
      const other = grouped(judge, findings, isOver, beginning);
      if (other.left < best.left) best = other;
    }
  }
  return best.causes.sort((a, b) => findings.indexOf(a.finding) - findings.indexOf(b.finding));
}

/** Causes, and the weight of what is still wrong once the first remedy of each is taken (see `leftWrong`). */
interface Grouped {
  causes: Cause[];
  left: number;
}

/** Groups findings by causes. @param beginning the remedy that is taken first; null for that of the gravest finding */
function grouped(
  judge: Judge,
  findings: Finding[],
  isOver: () => boolean,
  beginning: Beginning | null = null,
): Grouped {
  const { today } = judge;
  const causes: Cause[] = [];
  let left = findings;
  /** The setup with the first remedy of every cause so far. */
  let mended: Judged = judge.first;
  /** Findings whose repair another fault spoils. */
  const later = new Set<Finding>();
  while (left.length > 0) {
    const first = causes.length === 0 ? beginning : null;
    const next = first?.finding ?? left.find((one) => !later.has(one)) ?? left[0];
    const isLate = isOver();
    const found = isLate ? [] : repairsOf(judge, next, mended);
    const repairs = first ? [first.repair, ...found.filter((one) => !isSame(one, first.repair))] : found;
    const [best] = repairs;
    if (best?.isOutdone && !first && !later.has(next)) {
      later.add(next);
      continue;
    }
    if (best) mended = best.after;
    const gone = new Set(best ? goneIn(mended.setup, left, today) : []);
    const brings = left.filter((one) => one === next || gone.has(one));
    if (best) later.clear();
    const [finding] = brings;
    const offered = repairs.length > 0 ? harmless(judge, repairs) : [];
    const isOffered = offered[0]?.acts === best?.acts;
    causes.push({
      ...{ finding, brings, name: best ? faultOf(best.acts) : null },
      remedies: isOffered ? offered.slice(0, MOST_REMEDIES).map((one) => remedyOf(judge.first, one)) : [],
      givingUp: isLate ? [] : givingUp(judge, finding),
      whyNone: best ? (isOffered ? null : 'others first') : isLate ? 'not looked for' : 'no change',
    });
    left = left.filter((one) => !brings.includes(one));
  }
  return { causes, left: leftWrong(mended) };
}

function isSame(one: Repair, other: Repair): boolean {
  return labelOf(one.acts) === labelOf(other.acts);
}

/** The findings of a list that a setup does not have any more. */
function goneIn(setup: Setup, findings: Finding[], today: string): Finding[] {
  if (findings.length === 0) return [];
  const after = new Set(findingsOf(setup, today).map(({ id }) => id));
  return findings.filter(({ id }) => !after.has(id));
}

/** The repairs that help the setup as it is, and do no harm in it. */
function harmless(judge: Judge, repairs: Repair[]): Repair[] {
  const { first } = judge;
  return repairs.slice(0, MOST_REMEDIES).flatMap((repair) => {
    if (repair.from === first) return [repair];
    const setup = attempt(first.setup, asEdit(repair.acts));
    const after = setup && judge.judge(setup, first);
    return after && after.total < first.total && !worsened(first, after)
      ? [{ ...repair, after, from: first }]
      : [];
  });
}
