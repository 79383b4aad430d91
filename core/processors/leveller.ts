import { z } from 'zod';
import { Leveller } from '../signal/leveller.ts';
import { levelText } from '../words/figures.ts';
import { type Kind, numbers, off } from './kind.ts';

const figures = {
  lowLufs: { label: 'not below', unit: 'LUFS', min: -60, max: 0 },
  highLufs: { label: 'not above', unit: 'LUFS', min: -60, max: 0 },
  mostDb: {
    label: 'by at most',
    unit: 'dB',
    min: 1,
    max: 24,
    about: 'The most by which it makes the sound louder or quieter.',
  },
  dbPerS: { label: 'as fast as', unit: 'dB/s', min: 0.1, max: 24 },
};

export const LevellerSchema = z.strictObject({ does: z.literal('leveller'), ...numbers(figures), off });

/** Keeps a sound within a loudness range, slowly: a friend who whispers and one who shouts. */
export const leveller: Kind<z.infer<typeof LevellerSchema>> = {
  word: 'leveller',
  initial: { does: 'leveller', lowLufs: -24, highLufs: -18, mostDb: 9, dbPerS: 3 },
  figures,
  dependsOnLevel: true,
  keepsLevel: false,
  says: ({ lowLufs, highLufs }) =>
    ` between ${levelText(Math.min(lowLufs, highLufs))} and ${levelText(Math.max(lowLufs, highLufs))} LUFS`,
  stage: (step, { sampleRate }) => new Leveller(step, sampleRate),
};
