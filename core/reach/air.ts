import type { Air, Setup } from '../setup/schema.ts';
import { airId, type Graph } from './graph.ts';
import { type Reach, reachOf } from './reach.ts';

const known = new WeakMap<Setup, Setup>();

/** The setup as if nobody heard loudspeakers through the air; itself where nobody does. */
export function withoutAir(setup: Setup): Setup {
  if (!setup.air?.length) return setup;
  const dry = known.get(setup) ?? { ...setup, air: undefined };
  known.set(setup, dry);
  return dry;
}

const knownReach = new WeakMap<Setup, Reach>();

/** What arrives over the wiring alone: controls are those of the wiring, and move nothing that comes through the air. */
export function reachWithoutAir(setup: Setup): Reach {
  const dry = withoutAir(setup);
  const reach = knownReach.get(dry) ?? reachOf(dry);
  knownReach.set(dry, reach);
  return reach;
}

/** The pairs of loudspeakers and microphones between which sound goes: what the microphone hears goes somewhere. */
export function openPairs({ air = [] }: Setup, { indexOf, leaving }: Graph): Air[] {
  return air.filter(({ destination, source }) => {
    const node = indexOf.get(airId(destination, source));
    return node !== undefined && leaving[node].length > 0;
  });
}
