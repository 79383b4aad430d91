import type { Reach } from './reach.ts';

/** What one source gains or loses at one destination; gains in dB, null where nothing arrives. */
export interface ReachChange {
  source: string;
  destination: string;
  /** The scene in which it is so; null where it is so whatever the scene. */
  scene: string | null;
  beforeDb: number | null;
  afterDb: number | null;
}

/** Changes below this (dB) are none. */
const SAME_DB = 0.05;

/** Tells whether two levels (dB; null where nothing arrives) are the same. */
export function isSameDb(a: number | null, b: number | null): boolean {
  return a === b || (a !== null && b !== null && Math.abs(a - b) < SAME_DB);
}

/** Returns what differs between two reaches, over the sources of the later one and the destinations of both. */
export function changesBetween(
  before: Reach,
  after: Reach,
  sources: string[],
  scene: string | null = null,
): ReachChange[] {
  const places = new Set([...after.destinations, ...before.destinations].map(({ id }) => id));
  const changes: ReachChange[] = [];
  for (const source of sources) {
    for (const destination of places) {
      const beforeDb = before.at(source, destination)?.gainDb ?? null;
      const afterDb = after.at(source, destination)?.gainDb ?? null;
      if (!isSameDb(beforeDb, afterDb)) changes.push({ source, destination, scene, beforeDb, afterDb });
    }
  }
  return changes;
}
