import type { Setup } from '../setup/schema.ts';
import { type Reach, reachOf } from './reach.ts';

const known = new WeakMap<Setup, Reach>();

/** Returns the reach of a setup, computed once: for searches that ask for it again and again. The setup must not change. */
export function knownReach(setup: Setup): Reach {
  let reach = known.get(setup);
  if (!reach) {
    reach = reachOf(setup);
    known.set(setup, reach);
  }
  return reach;
}
