import { applyEdit, type Edit, type SimpleEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { candidatesFor } from './candidates.ts';
import { type Finding, findingsOf } from './findings.ts';

/** A change that removes a finding: what to do, in words, and the edit that does it. */
export interface Remedy {
  label: string;
  edit: Edit;
  /** How many findings are left once it is applied. */
  findingsAfter: number;
}

/**
 * Returns the remedies of a finding, the best first. Each candidate is tried on the setup: it is offered only when
 * the finding is gone afterwards and no new stop-finding has come; those that raise no other finding come first.
 */
export function remediesFor(setup: Setup, finding: Finding, today: string): Remedy[] {
  const before = new Map(findingsOf(setup, today).map((one) => [one.id, one]));
  const tried = candidatesFor(setup, finding).flatMap(({ label, edits }, order) => {
    if (edits.length === 0) return [];
    const edit = asEdit(label, edits);
    const after = applyEdit(setup, edit);
    if (brokenRules(after).length > 0) return [];
    const findings = findingsOf(after, today);
    const added = findings.filter((one) => !before.has(one.id));
    const gone = !findings.some((one) => one.id === finding.id);
    if (!gone || added.some((one) => one.severity === 'stop')) return [];
    return [{ remedy: { label, edit, findingsAfter: findings.length }, added: added.length, order }];
  });
  const clean = tried.filter((one) => one.added === 0);
  return (clean.length > 0 ? clean : tried)
    .sort((a, b) => a.added - b.added || a.order - b.order)
    .map(({ remedy }) => remedy);
}

function asEdit(label: string, edits: SimpleEdit[]): Edit {
  return { edit: 'batch', label: label.slice(0, 120), edits };
}
