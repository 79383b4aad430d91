import { z } from 'zod';
import { coefficientsOf } from '../signal/biquad.ts';
import { gainText } from '../words/figures.ts';
import { HZ, type Kind, numbers, off } from './kind.ts';
import { StereoFilter } from './stereoFilter.ts';

const figures = {
  hz: HZ,
  gainDb: { label: 'by', unit: 'dB', min: -24, max: 24 },
  q: { label: 'Q', unit: '', min: 0.1, max: 20 },
};

export const BandSchema = z.strictObject({
  does: z.literal('band'),
  shape: z.enum(['low-shelf', 'bell', 'high-shelf']),
  ...numbers(figures),
  off,
});
type Step = z.infer<typeof BandSchema>;

const filterOf = ({ shape, hz, q, gainDb }: Step, sampleRate: number) =>
  coefficientsOf(shape, hz, q, gainDb, sampleRate);

/** Makes some frequencies louder or quieter. */
export const band: Kind<Step> = {
  word: 'equaliser band',
  initial: { does: 'band', shape: 'bell', hz: 3000, gainDb: 3, q: 1 },
  figures,
  dependsOnLevel: false,
  keepsLevel: false,
  effect: 'equaliser',
  says: ({ shape, hz, gainDb, q }) => ` (${shape}) ${gainText(gainDb)} dB at ${hz} Hz, Q ${q}`,
  filter: filterOf,
  stage: (step, { sampleRate }) => new StereoFilter(filterOf(step, sampleRate)),
};
