import type { Setup } from '../setup/schema.ts';

/** What is wanted: `intent.at(source, destination)` is the wanted gain in dB, or null where it is not wanted. */
export interface Intent {
  at(sourceId: string, destinationId: string): number | null;
}

/** Returns the intent of the setup, indexed for look-up. */
export function intentOf(setup: Setup): Intent {
  const wishes = new Map(setup.intent.map((wish) => [`${wish.source} ${wish.destination}`, wish.gainDb]));
  return { at: (source, destination) => wishes.get(`${source} ${destination}`) ?? null };
}
