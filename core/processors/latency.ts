import { LIMITER_FRAMES } from '../signal/limiterFrames.ts';
import { type Processing, type Processor, stepsOn } from './processing.ts';

/** Noise reduction gathers 10 ms and looks 10 ms ahead. */
export const NOISE_REDUCTION_FRAMES = 960;

/** By how many frames a sound is later for a processing. */
export function latencyFrames(processing: Processing, sampleRate: number): number {
  return stepsOn(processing).reduce((sum, step) => sum + framesOf(step, sampleRate), 0);
}

function framesOf(step: Processor, sampleRate: number): number {
  if (step.does === 'delay') return delayFrames(step.delayMs, sampleRate);
  if (step.does === 'limiter') return LIMITER_FRAMES;
  return step.does === 'noise reduction' ? NOISE_REDUCTION_FRAMES : 0;
}

/** The frames of a delay step. */
export function delayFrames(delayMs: number, sampleRate: number): number {
  return Math.round((delayMs * sampleRate) / 1000);
}
