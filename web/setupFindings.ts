import type { Finding } from '../core/findings/finding.ts';
import { findingsOf } from '../core/findings/findings.ts';
import { type Reach, reachOf } from '../core/reach/reach.ts';
import type { Setup } from '../core/setup/schema.ts';
import { today } from './format.ts';

const known = new WeakMap<Setup, { day: string; findings: Finding[] }>();

const knownReaches = new WeakMap<Setup, Reach>();

/** Returns what reaches whom in a setup with every pickup sounding, followed once however many parts of the screen ask. */
export function knownReach(setup: Setup): Reach {
  let reach = knownReaches.get(setup);
  if (!reach) {
    reach = reachOf(setup);
    knownReaches.set(setup, reach);
  }
  return reach;
}

/** Returns the findings of a setup, looked for once however many parts of the screen ask. The setup must not change. */
export function knownFindings(setup: Setup): Finding[] {
  const day = today();
  const last = known.get(setup);
  if (last?.day === day) return last.findings;
  const findings = findingsOf(setup, day, knownReach(setup));
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
