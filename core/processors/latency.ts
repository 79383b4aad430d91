import { kindOf, type Processing, stepsOn } from './processing.ts';

/** By how many frames a sound is later for a processing. */
export function latencyFrames(processing: Processing, sampleRate: number): number {
  return stepsOn(processing).reduce((sum, step) => sum + (kindOf(step).frames?.(step, sampleRate) ?? 0), 0);
}
