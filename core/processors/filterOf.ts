import { type Coefficients, coefficientsOf } from '../signal/biquad.ts';
import type { Processor } from './processing.ts';

/** A maximally flat high-pass has this quality. */
const FLAT_Q = Math.SQRT1_2;

/** The filter that a step is, if it is one. */
export function filterOf(step: Processor, sampleRate: number): Coefficients | null {
  if (step.does === 'high-pass') return coefficientsOf('high-pass', step.hz, FLAT_Q, 0, sampleRate);
  if (step.does === 'band') return coefficientsOf(step.shape, step.hz, step.q, step.gainDb, sampleRate);
  return null;
}
