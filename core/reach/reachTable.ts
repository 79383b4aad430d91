import type { Setup } from '../setup/schema.ts';
import { intentOf } from './intent.ts';
import { reachOf } from './reach.ts';

/** What arrives of one source at one destination, beside what is wanted there; null for nothing. */
export interface ReachCell {
  source: string;
  destination: string;
  gainDb: number | null;
  delayMs: number | null;
  /** How many paths there are. */
  copies: number;
  wantedDb: number | null;
}

/** Reach as a table: over all pickups, and in each scene. */
export interface ReachTable {
  cells: ReachCell[];
  scenes: { scene: string; cells: ReachCell[] }[];
}

/** Returns every cell in which something arrives or is wanted, source by source in the order of the setup. */
export function reachTableOf(setup: Setup): ReachTable {
  return {
    cells: cellsOf(setup),
    scenes: setup.scenes.map(({ id }) => ({ scene: id, cells: cellsOf(setup, id) })),
  };
}

function cellsOf(setup: Setup, scene?: string): ReachCell[] {
  const reach = reachOf(setup, { scene });
  const intent = intentOf(setup);
  return setup.sources.flatMap(({ id: source }) =>
    reach.destinations.flatMap(({ id: destination }): ReachCell[] => {
      const arrival = reach.at(source, destination);
      const wantedDb = intent.at(source, destination);
      if (!arrival && wantedDb === null) return [];
      return [
        {
          source,
          destination,
          gainDb: arrival?.gainDb ?? null,
          delayMs: arrival?.delayMs ?? null,
          copies: arrival?.copies ?? 0,
          wantedDb,
        },
      ];
    }),
  );
}
