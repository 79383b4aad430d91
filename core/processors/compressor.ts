import { z } from 'zod';
import { Compressor } from '../signal/compressor.ts';
import { gainText, levelText } from '../words/figures.ts';
import { ATTACK, type Kind, numbers, off, RELEASE } from './kind.ts';

const figures = {
  thresholdDb: { label: 'threshold', unit: 'dBFS', min: -80, max: 0 },
  ratio: { label: 'ratio', unit: ': 1', min: 1, max: 40 },
  kneeDb: { label: 'knee', unit: 'dB', min: 0, max: 24 },
  attackMs: ATTACK,
  releaseMs: RELEASE,
  makeUpDb: { label: 'make-up', unit: 'dB', min: -24, max: 24 },
};

export const CompressorSchema = z.strictObject({ does: z.literal('compressor'), ...numbers(figures), off });

/** Brings loud and quiet nearer to each other. */
export const compressor: Kind<z.infer<typeof CompressorSchema>> = {
  word: 'compressor',
  initial: {
    does: 'compressor',
    thresholdDb: -24,
    ratio: 3,
    kneeDb: 6,
    attackMs: 8,
    releaseMs: 120,
    makeUpDb: 4,
  },
  figures,
  dependsOnLevel: true,
  keepsLevel: false,
  effect: 'compressor',
  says: ({ thresholdDb, ratio, makeUpDb }) =>
    ` from ${levelText(thresholdDb)} dB on, ${ratio} to 1, make-up ${gainText(makeUpDb)} dB`,
  stage: (step, { sampleRate }) => new Compressor(step, sampleRate),
};
