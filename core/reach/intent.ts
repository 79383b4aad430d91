import type { Setup } from '../setup/schema.ts';

/** What is wanted: `intent.at(source, destination)` is the wanted gain in dB, or null where it is not wanted. */
export interface Intent {
  at(sourceId: string, destinationId: string): number | null;
}

/** Returns the intent of the setup, indexed for look-up. */
export function intentOf(setup: Setup): Intent {
  const wishes = new Map<string, Map<string, number>>();
  for (const { source, destination, gainDb } of setup.intent) {
    const own = wishes.get(source);
    if (own) own.set(destination, gainDb);
    else wishes.set(source, new Map([[destination, gainDb]]));
  }
  return { at: (source, destination) => wishes.get(source)?.get(destination) ?? null };
}
