import { z } from 'zod';
import { NoiseReduction } from '../signal/noiseReduction.ts';
import { type Kind, numbers, off } from './kind.ts';

const figures = {
  reduceDb: {
    label: 'noise down by',
    unit: 'dB',
    min: 3,
    max: 60,
    about: 'By how much what is not voice becomes quieter.',
  },
};
/** It gathers 10 ms and looks 10 ms ahead, at 48 kHz. */
export const NOISE_REDUCTION_FRAMES = 960;

export const NoiseReductionSchema = z.strictObject({
  does: z.literal('noise reduction'),
  ...numbers(figures),
  off,
});

/** Makes what is not voice quieter. Its library has to be loaded before (`loadNoiseReduction`). */
export const noiseReduction: Kind<z.infer<typeof NoiseReductionSchema>> = {
  word: 'noise reduction',
  initial: { does: 'noise reduction', reduceDb: 18 },
  figures,
  dependsOnLevel: true,
  keepsLevel: false,
  effect: 'noise reduction',
  says: ({ reduceDb }) => ` by ${reduceDb} dB`,
  frames: () => NOISE_REDUCTION_FRAMES,
  stage: (step, { place }) => new NoiseReduction(step, place),
};
