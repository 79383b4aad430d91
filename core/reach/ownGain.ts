import type { Source } from '../setup/schema.ts';

/** The gain of a source before it leaves its machine: its level, and the app's own volume (dB). */
export function ownGainDb(source: Source): number {
  return source.levelDb + volumeDb(source);
}

/** What an app's own volume does (dB): half of it is −6 dB. */
export function volumeDb({ volumePercent = 100 }: Source): number {
  return 20 * Math.log10(volumePercent / 100);
}
