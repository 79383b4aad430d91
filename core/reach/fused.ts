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
  const carriers = carriersOf(setup, reach);
  const others = carriers.get(other);
  for (const pickup of carriers.get(one) ?? []) if (!others?.has(pickup)) return true;
  return false;
}

const known = new WeakMap<Reach, Map<string, Set<string>>>();

/** The pickups that carry each source, looked up once for a reach. */
function carriersOf(setup: Setup, reach: Reach): Map<string, Set<string>> {
  let carriers = known.get(reach);
  if (!carriers) {
    carriers = new Map(setup.sources.map(({ id }) => [id, new Set()]));
    for (const { id } of setup.pickups)
      for (const source of reach.sourcesAt(id)) carriers.get(source)?.add(id);
    known.set(reach, carriers);
  }
  return carriers;
}

/** The names of the sources that are fused with one, or null when it stands alone. */
export function fusedNames(setup: Setup, groups: FusedGroup[], id: string): string | null {
  const others = groups
    .filter((group) => group.sources.includes(id))
    .flatMap((group) => group.sources.filter((one) => one !== id));
  return others.length > 0 ? [...new Set(others)].map((one) => nameOf(setup, one)).join(', ') : null;
}
