import { z } from 'zod';
import { type Kind, off } from './kind.ts';
import { Scale } from './scale.ts';

export const PolaritySchema = z.strictObject({ does: z.literal('polarity'), off });

/** Turns a sound over: what was above the middle line is below it. */
export const polarity: Kind<z.infer<typeof PolaritySchema>> = {
  word: 'polarity',
  initial: { does: 'polarity' },
  figures: {},
  dependsOnLevel: false,
  keepsLevel: true,
  says: () => '',
  stage: () => new Scale(-1),
};
