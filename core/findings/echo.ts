import type { Setup } from '../setup/schema.ts';

/**
 * Tells whether a friend's voice at friends is an echo. One group of friends never hears its own voices; of several groups, one may
 * want to hear the others.
 */
export function isEcho(
  { intent, destinations }: Pick<Setup, 'intent' | 'destinations'>,
  source: string,
  destination: string,
): boolean {
  if (destinations.filter(({ kind }) => kind === 'friends').length < 2) return true;
  return !intent.some((wish) => wish.source === source && wish.destination === destination);
}
