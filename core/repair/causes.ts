import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { applyEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { type Remedy, remediesFor } from './remedies.ts';

/** One thing that is wrong in a room: what mends it, and everything that it brings. */
export interface Cause {
  /** The gravest finding that it brings. */
  finding: Finding;
  /** Every finding that goes with it, the gravest first; the first is {@link finding}. */
  brings: Finding[];
  /** What mends it without giving up anything that is wanted; null where nothing does. */
  remedy: Remedy | null;
}

/**
 * Groups the findings of a setup by their causes: the gravest finding's first remedy is what is to be done, and what goes away
 * with it is what the cause brings.
 * @param today `YYYY-MM-DD`
 * @param isOver asked before each cause; once it is true, the findings that are left stand alone, without a remedy
 */
export function causesOf(
  setup: Setup,
  today: string,
  findings: Finding[] = findingsOf(setup, today),
  isOver: () => boolean = () => false,
): Cause[] {
  const causes: Cause[] = [];
  let left = findings;
  while (left.length > 0) {
    const [finding] = left;
    if (isOver()) return [...causes, ...left.map((one) => ({ finding: one, brings: [one], remedy: null }))];
    const remedy =
      remediesFor(setup, finding, today, findings).find(({ givesUp }) => givesUp.length === 0) ?? null;
    const after = remedy && new Set(findingsOf(applyEdit(setup, remedy.edit), today).map(({ id }) => id));
    const brings = left.filter((one) => one === finding || (after && !after.has(one.id)));
    causes.push({ finding, brings, remedy });
    left = left.filter((one) => !brings.includes(one));
  }
  return causes;
}
