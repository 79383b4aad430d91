import type { Setup } from '../setup/schema.ts';
import type { Finding } from './finding.ts';

/** Findings, parted into those that count and those that are meant to be so. */
export interface Parted {
  open: Finding[];
  meant: { finding: Finding; note: string | undefined }[];
}

/** Parts findings. One that is meant counts again once it says something else than when it was accepted. */
export function partedByMeaning({ accepted = [] }: Pick<Setup, 'accepted'>, findings: Finding[]): Parted {
  const known = new Map(accepted.map((one) => [one.finding, one]));
  const parted: Parted = { open: [], meant: [] };
  for (const finding of findings) {
    const one = known.get(finding.id);
    if (one && one.facts === finding.message) parted.meant.push({ finding, note: one.note });
    else parted.open.push(finding);
  }
  return parted;
}

/** Returns the findings that count. */
export function openFindings(setup: Setup, findings: Finding[]): Finding[] {
  return (setup.accepted ?? []).length === 0 ? findings : partedByMeaning(setup, findings).open;
}
