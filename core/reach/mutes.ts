import type { Setup } from '../setup/schema.ts';
import { handlesOf } from './cell.ts';
import { legKey } from './graph.ts';
import type { Reach } from './reach.ts';

/** A source that is not to be heard at a destination for now; at none of them when there is no destination. */
export interface Mute {
  source: string;
  destination: string | null;
}

/**
 * Returns the legs that are to let nothing through, so that the sources are mute where they are to be: the controls that the
 * board would close. What is fused with a source goes with it.
 */
export function silencedBy(setup: Setup, reach: Reach, mutes: Mute[]): Set<string> {
  const legs = new Set<string>();
  for (const mute of mutes) {
    const source = setup.sources.find(({ id }) => id === mute.source);
    for (const destination of reach.destinations) {
      if (mute.destination !== null && mute.destination !== destination.id) continue;
      if (!source || !reach.at(mute.source, destination.id)) continue;
      for (const { from, to } of handlesOf(setup, reach, source, destination)) legs.add(legKey(from, to));
    }
  }
  return legs;
}
