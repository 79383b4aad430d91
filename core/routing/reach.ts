import type { Pickup, Send, Setup, Source } from '../setup/schema.ts';
import { type Destination, destinationsOf } from './destinations.ts';

/** A source that arrives more quietly than this (dB) counts as not arriving where it is wanted. */
export const AUDIBLE_DB = -60;

/** One step of a path: a place, what it does there, and the running totals up to and including it. */
export interface Leg {
  place: string;
  what: string;
  gainDb: number;
  delayMs: number;
  totalDb: number;
  totalDelayMs: number;
}

/** A route card: one path from a source to a destination, leg by leg, with its totals. */
export interface RouteCard {
  source: string;
  destination: string;
  legs: Leg[];
  gainDb: number;
  delayMs: number;
}

/** What arrives of one source at one destination: the sum of its paths in dB, and each path (written when asked for). */
export interface Arrival {
  readonly gainDb: number;
  readonly paths: RouteCard[];
}

/** Everything that arrives: look up with `reach.at(source, destination)`; null where nothing does. */
export interface Reach {
  destinations: Destination[];
  at(sourceId: string, destinationId: string): Arrival | null;
}

/**
 * Computes, for every source and every destination of the setup, the list of paths between them. A pure function
 * of the setup; the cost grows with the number of sends.
 */
export function reachOf(setup: Setup): Reach {
  const destinations = destinationsOf(setup);
  const byFeed = new Map<string, Destination[]>();
  for (const destination of destinations) {
    if (destination.feedId === null) continue;
    byFeed.set(destination.feedId, [...(byFeed.get(destination.feedId) ?? []), destination]);
  }
  const sources = new Map(setup.sources.map((source) => [source.id, source]));
  const pickups = new Map(setup.pickups.map((pickup) => [pickup.id, pickup]));
  const found = new Map<string, Found[]>();

  for (const send of setup.sends) {
    const pickup = pickups.get(send.pickup);
    const source = pickup && sources.get(pickup.source);
    if (!source) continue;
    for (const destination of byFeed.get(send.to) ?? []) {
      const key = keyOf(source.id, destination.id);
      const others = found.get(key);
      const one = { source, pickup, send, destination };
      if (others) others.push(one);
      else found.set(key, [one]);
    }
  }
  const arrivals = new Map(Array.from(found, ([key, paths]) => [key, new ArrivalOf(paths)]));
  return { destinations, at: (source, destination) => arrivals.get(keyOf(source, destination)) ?? null };
}

/** The things that a path leads over. */
interface Found {
  source: Source;
  pickup: Pickup;
  send: Send;
  destination: Destination;
}

class ArrivalOf implements Arrival {
  readonly gainDb: number;
  private readonly found: Found[];
  private cards: RouteCard[] | null = null;

  constructor(found: Found[]) {
    this.found = found;
    this.gainDb = sumDb(
      found.map(({ source, pickup, send }) => source.levelDb + pickup.gainDb + send.gainDb),
    );
  }

  get paths(): RouteCard[] {
    this.cards ??= this.found.map(({ source, pickup, send, destination }) =>
      routeCard(source.id, destination.id, [
        [source.name, 'level of the source', source.levelDb],
        [`Pickup of ${source.name}`, 'taken by the recorder', pickup.gainDb],
        [feedName(destination), 'send', send.gainDb],
        [destination.name, 'heard here', 0],
      ]),
    );
    return this.cards;
  }
}

function routeCard(
  source: string,
  destination: string,
  steps: [place: string, what: string, gainDb: number][],
): RouteCard {
  let totalDb = 0;
  const legs = steps.map(([place, what, gainDb]): Leg => {
    totalDb += gainDb;
    return { place, what, gainDb, delayMs: 0, totalDb, totalDelayMs: 0 };
  });
  return { source, destination, legs, gainDb: totalDb, delayMs: 0 };
}

/** Copies without a delay between them add in amplitude. */
function sumDb(gains: number[]): number {
  if (gains.length === 1) return gains[0];
  return 20 * Math.log10(gains.reduce((sum, gainDb) => sum + 10 ** (gainDb / 20), 0));
}

function feedName(destination: Destination): string {
  return destination.track
    ? `Track ${destination.trackNumber} · ${destination.track.name}`
    : `Mix for ${destination.name}`;
}

function keyOf(source: string, destination: string): string {
  return `${source} ${destination}`;
}
