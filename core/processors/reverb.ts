import { z } from 'zod';
import { Reverb } from '../signal/reverb.ts';
import { gainText } from '../words/figures.ts';
import { type Kind, numbers, off } from './kind.ts';

const figures = {
  decayS: {
    label: 'rings for',
    unit: 's',
    min: 0.1,
    max: 10,
    about: 'How long it takes until what rings on is 60 dB quieter.',
  },
  wetDb: { label: 'at', unit: 'dB', min: -60, max: 6 },
  dampPercent: { label: 'top fades sooner by', unit: '%', min: 0, max: 90 },
};

export const ReverbSchema = z.strictObject({ does: z.literal('reverb'), ...numbers(figures), off });

/** Lets a sound ring on as in a small room. */
export const reverb: Kind<z.infer<typeof ReverbSchema>> = {
  word: 'reverb',
  initial: { does: 'reverb', decayS: 1.2, wetDb: -14, dampPercent: 30 },
  figures,
  dependsOnLevel: false,
  keepsLevel: false,
  says: ({ decayS, wetDb }) => ` of ${decayS} s at ${gainText(wetDb)} dB`,
  stage: (step, { sampleRate }) => new Reverb(step, sampleRate),
};
