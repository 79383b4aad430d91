import { destinationsOf } from '../reach/destinations.ts';
import type { Clearance } from '../setup/clearance.ts';
import type { Setup, Track, Wish } from '../setup/schema.ts';

/** What is wanted and allowed: it stays as it is while ways to get there are compared. */
export interface Wanted {
  intent: Wish[];
  clearances: Map<string, Clearance>;
  /** The sources that are to keep an edit track of their own, if their clearance allows it. */
  ownTracks: Set<string>;
  /** What each track is for: one that changes its purpose goes on being published until somebody says so. */
  purposes: Map<string, Track['purpose']>;
  /**
   * The destinations that there are, and the tracks that would be one if they lost their use; at one that a repair brings, nothing is
   * wanted or unwanted.
   */
  places: string[];
  /** Those who listen, live and VOD among them. */
  destinations: Setup['destinations'];
  recordVod: boolean;
}

/** Returns what a setup wants and allows. */
export function wantedOf(setup: Setup): Wanted {
  return {
    intent: setup.intent,
    clearances: new Map(setup.sources.map(({ id, clearance }) => [id, clearance])),
    ownTracks: new Set(setup.sources.filter(({ ownTrack }) => ownTrack !== false).map(({ id }) => id)),
    purposes: new Map(setup.tracks.map(({ id, purpose }) => [id, purpose])),
    places: [...destinationsOf(setup), ...setup.tracks].map(({ id }) => id),
    destinations: setup.destinations,
    recordVod: setup.recorder.recordVod ?? false,
  };
}
