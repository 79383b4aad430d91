import type { Stereo } from '../audio/planes.ts';
import { destinationsOf } from '../reach/destinations.ts';
import { heardFoldOf } from '../setup/channels.ts';
import type { Setup } from '../setup/schema.ts';
import { type CompileOptions, compile, type Schedule } from './compile.ts';

/** How two channels of an output reach the two sides of a destination: left to left, right to left, left to right, right to right. */
export type SideWeights = [ll: number, rl: number, lr: number, rr: number];

/** A destination as it is heard: the outputs that make it up. */
export interface HeardDestination {
  id: string;
  name: string;
  parts: { output: number; weights: SideWeights }[];
}

/** A setup made flat for rehearsing: the schedule of everything, and who can be listened to. */
export interface Rehearsable {
  schedule: Schedule;
  destinations: HeardDestination[];
}

const AS_IT_IS: SideWeights = [1, 0, 0, 1];

/** Compiles a setup with everybody in it. Those that nothing feeds are left out. */
export function compileDestinations(setup: Setup, options: CompileOptions = {}): Rehearsable {
  const schedule = compile(setup, { ...options, only: 'everything' });
  const destinations = destinationsOf(setup).flatMap(({ id, name, sendTo, track }): HeardDestination[] => {
    const fold = track && heardFoldOf(setup, track);
    const parts = schedule.outputs.flatMap((output, index): HeardDestination['parts'] => {
      if (output.id !== sendTo) return [];
      if (!fold) return [{ output: index, weights: AS_IT_IS }];
      const [first, second] = [2 * output.pair, 2 * output.pair + 1];
      const weight = (side: number[], channel: number) => side[channel] ?? 0;
      return [
        {
          output: index,
          weights: [
            weight(fold.left, first),
            weight(fold.left, second),
            weight(fold.right, first),
            weight(fold.right, second),
          ],
        },
      ];
    });
    return parts.length > 0 ? [{ id, name, parts }] : [];
  });
  return { schedule, destinations };
}

/** Writes what a destination hears of the outputs into two planes, from their beginning. */
export function hear(
  outputs: Stereo[],
  { parts }: HeardDestination,
  [left, right]: Stereo,
  frames: number,
): void {
  left.fill(0, 0, frames);
  right.fill(0, 0, frames);
  for (let part = 0; part < parts.length; part++) {
    const { output, weights } = parts[part];
    const a = outputs[output][0];
    const b = outputs[output][1];
    const ll = weights[0];
    const rl = weights[1];
    const lr = weights[2];
    const rr = weights[3];
    for (let i = 0; i < frames; i++) {
      left[i] += ll * a[i] + rl * b[i];
      right[i] += lr * a[i] + rr * b[i];
    }
  }
}

/** Tells whether two schedules differ in nothing but gains, so that a mixer can go from one to the other while it plays. */
export function differInGainsOnly(a: Schedule, b: Schedule): boolean {
  return withoutGains(a) === withoutGains(b);
}

function withoutGains({ operationGain: _, ...rest }: Schedule): string {
  return JSON.stringify(rest);
}
