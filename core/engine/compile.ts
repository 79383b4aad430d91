import { destinationsOf } from '../routing/destinations.ts';
import type { Setup } from '../setup/schema.ts';
import { fromDb } from '../signal/decibel.ts';

/** A bus that the engine mixes: one track of the sheet, or one pair of ears. */
export interface Bus {
  id: string;
  name: string;
  layout: 'mono' | 'stereo';
}

/**
 * A setup made flat for the render loop: sources and buses by index, and one operation per open send in parallel
 * arrays (the bus at `operationBus[i]` receives the source at `operationSource[i]`, times `operationGain[i]`),
 * ordered by bus.
 */
export interface Schedule {
  sourceIds: string[];
  buses: Bus[];
  operationSource: Int32Array;
  operationBus: Int32Array;
  operationGain: Float64Array;
}

/** Compiles a setup to a schedule. `only` limits the buses; by default, ears and tracks are all mixed. */
export function compile(setup: Setup, only: 'tracks' | 'everything' = 'everything'): Schedule {
  const sourceIds = setup.sources.map((source) => source.id);
  const tracks = setup.tracks.map(({ id, name, layout }): Bus => ({ id, name, layout }));
  const ears = destinationsOf(setup)
    .filter((destination) => destination.kind === 'headphones' || destination.kind === 'friends')
    .map(({ id, name }): Bus => ({ id, name, layout: 'stereo' }));
  const buses = only === 'tracks' ? tracks : [...ears, ...tracks];

  const operations = setup.sends.flatMap((send) => {
    const pickup = setup.pickups.find((one) => one.id === send.pickup);
    const source = setup.sources.find((one) => one.id === pickup?.source);
    const bus = buses.findIndex((one) => one.id === send.to);
    if (!pickup || !source || bus < 0) return [];
    const gain = fromDb(source.levelDb + pickup.gainDb + send.gainDb);
    return [{ source: sourceIds.indexOf(source.id), bus, gain }];
  });
  operations.sort((a, b) => a.bus - b.bus || a.source - b.source);
  return {
    sourceIds,
    buses,
    operationSource: Int32Array.from(operations, (one) => one.source),
    operationBus: Int32Array.from(operations, (one) => one.bus),
    operationGain: Float64Array.from(operations, (one) => one.gain),
  };
}
