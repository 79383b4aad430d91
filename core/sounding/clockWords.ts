import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { hourlyDriftText, listed } from '../words/figures.ts';
import type { HeardSource } from './read.ts';

/** Smaller drifts are not mentioned (ppm). */
const SAID_FROM_PPM = 1;

/** Says which sources run on a faster or slower clock than the recorder: one sentence for each clock. */
export function clocksApart(setup: Setup, heard: Pick<HeardSource, 'source' | 'driftPpm'>[]): string[] {
  const byClock = new Map<number, string[]>();
  for (const { source, driftPpm } of heard) {
    if (Math.abs(driftPpm) < SAID_FROM_PPM) continue;
    const ppm = Math.round(driftPpm);
    byClock.set(ppm, [...(byClock.get(ppm) ?? []), nameOf(setup, source)]);
  }
  return [...byClock].map(([ppm, names]) => {
    const [run, they] = names.length === 1 ? ['runs', 'it is'] : ['run', 'they are'];
    const [fast, early] = ppm > 0 ? ['fast', 'early'] : ['slow', 'late'];
    return `${listed(names)} ${run} on a clock that is ${Math.abs(ppm)} ppm ${fast}: after an hour ${they} ${hourlyDriftText(ppm)} ${early}. Let one device lead the clock of both machines, or stretch the track in the edit.`;
  });
}
