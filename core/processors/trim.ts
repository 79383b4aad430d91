import { z } from 'zod';
import { fromDb } from '../audio/decibel.ts';
import { gainText } from '../words/figures.ts';
import { type Kind, numbers, off } from './kind.ts';
import { Scale } from './scale.ts';

const figures = { gainDb: { label: 'by', unit: 'dB', min: -40, max: 40 } };

export const TrimSchema = z.strictObject({ does: z.literal('trim'), ...numbers(figures), off });

/** Makes a sound louder or quieter. */
export const trim: Kind<z.infer<typeof TrimSchema>> = {
  word: 'trim',
  initial: { does: 'trim', gainDb: 0 },
  figures,
  dependsOnLevel: false,
  keepsLevel: false,
  says: ({ gainDb }) => ` ${gainText(gainDb)} dB`,
  stage: ({ gainDb }) => new Scale(fromDb(gainDb)),
};
