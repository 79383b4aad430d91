import { around } from './periods.ts';
import type { Stretch } from './stretch.ts';

const { abs } = Math;

/** One arrival and what is left of it after it was taken out lie within so many frames. */
export const SAME_FRAMES = 2;

/** A code that stands out on a channel. */
export interface CodeSight {
  /** Which of the codes that are looked for. */
  code: number;
  /** Where its period begins (frames, counted from the start of the recording, at half of its rate, without whole periods). */
  lag: number;
  /** As a factor; negative where the polarity is turned over. */
  gain: number;
}

/** A code as it arrives on one channel. */
export interface CodeArrival extends CodeSight {
  /** When it was taken to sound. */
  stretch: Stretch;
}

/** What was added to the samples of a channel: a code, from one frame up to another; taken out of them where the gain is below zero. */
export interface CodeChange extends CodeSight {
  from: number;
  to: number;
}

/** Takes the arrivals out of a list that are quieter than a gain. */
export function takenFrom(found: CodeArrival[], below: number): CodeArrival[] {
  const quiet = found.filter(({ gain }) => abs(gain) < below);
  const loud = found.filter(({ gain }) => abs(gain) >= below);
  found.splice(0, found.length, ...loud);
  return quiet;
}

/** The same arrival may be found again, with what was left of it. */
export function addArrival(found: CodeArrival[], arrival: CodeArrival): void {
  const known = found.find(
    ({ code, lag }) => code === arrival.code && abs(around(lag - arrival.lag)) <= SAME_FRAMES,
  );
  if (!known) found.push(arrival);
  else known.gain += arrival.gain;
}
