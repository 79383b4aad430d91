import { z } from 'zod';
import { coefficientsOf } from '../signal/biquad.ts';
import { HZ, type Kind, numbers, off } from './kind.ts';
import { StereoFilter } from './stereoFilter.ts';

const figures = { hz: HZ };
/** A maximally flat high-pass has this quality. */
const FLAT_Q = Math.SQRT1_2;

export const HighPassSchema = z.strictObject({ does: z.literal('high-pass'), ...numbers(figures), off });
type Step = z.infer<typeof HighPassSchema>;

const filterOf = ({ hz }: Step, sampleRate: number) => coefficientsOf('high-pass', hz, FLAT_Q, 0, sampleRate);

/** Takes out what lies below a frequency, by 12 dB an octave. */
export const highPass: Kind<Step> = {
  word: 'high-pass',
  initial: { does: 'high-pass', hz: 80 },
  figures,
  dependsOnLevel: false,
  keepsLevel: false,
  says: ({ hz }) => ` at ${hz} Hz`,
  filter: filterOf,
  stage: (step, { sampleRate }) => new StereoFilter(filterOf(step, sampleRate)),
};
