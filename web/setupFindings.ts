import type { Finding } from '../core/findings/finding.ts';
import { findingsOf } from '../core/findings/findings.ts';
import type { Setup } from '../core/setup/schema.ts';
import { today } from './format.ts';

const known = new WeakMap<Setup, { day: string; findings: Finding[] }>();

/** Returns the findings of a setup, looked for once however many parts of the screen ask. The setup must not change. */
export function knownFindings(setup: Setup): Finding[] {
  const day = today();
  const last = known.get(setup);
  if (last?.day === day) return last.findings;
  const findings = findingsOf(setup, day);
  known.set(setup, { day, findings });
  return findings;
}

/** Returns findings by the cell that they concern: look up "source destination". */
export function findingsByCell(findings: Finding[]): Map<string, Finding[]> {
  const cells = new Map<string, Finding[]>();
  for (const finding of findings) {
    const key = `${finding.source} ${finding.destination}`;
    const others = cells.get(key);
    if (others) others.push(finding);
    else cells.set(key, [finding]);
  }
  return cells;
}

/** Leads to the gravest finding, behind the address of Reach. */
export const GRAVEST = '#gravest';
