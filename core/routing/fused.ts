import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import type { Reach } from './reach.ts';

/** Sources that come by one pickup, and that no other pickup tells apart. */
export interface FusedGroup {
  pickup: string;
  sources: string[];
}

/** Returns every group of sources that are fused, by pickup. */
export function fusedGroups(setup: Setup, reach: Reach): FusedGroup[] {
  return setup.pickups.flatMap(({ id }) => {
    const carried = reach.sourcesAt(id);
    const sources = carried.filter((one) =>
      carried.some((other) => other !== one && !canPart(setup, reach, one, other)),
    );
    return sources.length > 1 ? [{ pickup: id, sources }] : [];
  });
}

/** Tells whether some pickup carries the one source without the other. */
export function canPart(setup: Setup, reach: Reach, one: string, other: string): boolean {
  return setup.pickups.some(({ id }) => {
    const carried = reach.sourcesAt(id);
    return carried.includes(one) && !carried.includes(other);
  });
}

/** The names of the sources that are fused with one, or null when it stands alone. */
export function fusedNames(setup: Setup, groups: FusedGroup[], id: string): string | null {
  const others = groups
    .filter((group) => group.sources.includes(id))
    .flatMap((group) => group.sources.filter((one) => one !== id));
  return others.length > 0 ? [...new Set(others)].map((one) => nameOf(setup, one)).join(', ') : null;
}
