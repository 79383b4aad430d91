import { z } from 'zod';
import { Ducker } from '../signal/ducker.ts';
import { IdSchema } from '../values.ts';
import { ATTACK, HOLD, type Kind, numbers, off, RELEASE } from './kind.ts';

const figures = {
  opensDb: {
    label: 'from',
    unit: 'dBFS',
    min: -100,
    max: 0,
    about: 'The level of the key from which on it ducks (dBFS, RMS).',
  },
  depthDb: { label: 'down by', unit: 'dB', min: 0, max: 60, about: 'By how much it is quieter then.' },
  attackMs: ATTACK,
  holdMs: HOLD,
  releaseMs: RELEASE,
};

export const DuckingSchema = z.strictObject({
  does: z.literal('ducking'),
  key: IdSchema.describe('The source that makes room for itself: while it sounds, this one is quieter.'),
  ...numbers(figures),
  off,
});

/** Makes a sound quieter while another source, the key, sounds. The key of a new one is to be chosen. */
export const ducking: Kind<z.infer<typeof DuckingSchema>> = {
  word: 'ducking',
  initial: {
    does: 'ducking',
    key: '',
    opensDb: -40,
    depthDb: 12,
    attackMs: 40,
    holdMs: 300,
    releaseMs: 400,
  },
  figures,
  dependsOnLevel: false,
  keepsLevel: false,
  says: ({ depthDb, key }, nameOf) => ` by ${depthDb} dB under ${nameOf(key)}`,
  stage: (step, { sampleRate, indexOf }) => new Ducker(step, indexOf(step.key), sampleRate),
};
