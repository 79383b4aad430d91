import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { listed } from '../words/figures.ts';
import type { HeardSource } from './read.ts';

const { abs, round } = Math;

/** From this drift on it is said (ppm). */
const SAID_FROM_PPM = 1;
/** A clock that is 1 ppm fast gains so many ms in an hour. */
const MS_AN_HOUR = 3.6;

/** Says which sources run on a clock that is fast or slow against the recorder's: one sentence for each clock. */
export function clocksApart(setup: Setup, heard: Pick<HeardSource, 'source' | 'driftPpm'>[]): string[] {
  const byClock = new Map<number, string[]>();
  for (const { source, driftPpm } of heard) {
    if (!(abs(driftPpm) >= SAID_FROM_PPM)) continue;
    const ppm = round(driftPpm);
    byClock.set(ppm, [...(byClock.get(ppm) ?? []), nameOf(setup, source)]);
  }
  return [...byClock].map(([ppm, names]) => {
    const ms = (abs(ppm) * MS_AN_HOUR).toFixed(0);
    return names.length === 1
      ? `${names[0]} runs on a clock that is ${abs(ppm)} ppm ${ppm > 0 ? 'fast' : 'slow'}: after an hour it is ${ms} ms ${ppm > 0 ? 'early' : 'late'}.`
      : `${listed(names)} run on a clock that is ${abs(ppm)} ppm ${ppm > 0 ? 'fast' : 'slow'}: after an hour they are ${ms} ms ${ppm > 0 ? 'early' : 'late'}.`;
  });
}
