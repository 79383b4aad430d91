import { z } from 'zod';
import { Limiter } from '../signal/limiter.ts';
import { LIMITER_FRAMES } from '../signal/limiterFrames.ts';
import { levelText } from '../words/figures.ts';
import { type Kind, numbers, off, RELEASE } from './kind.ts';

const figures = {
  ceilingDbtp: { label: 'ceiling', unit: 'dBTP', min: -30, max: 0 },
  releaseMs: RELEASE,
};

export const LimiterSchema = z.strictObject({ does: z.literal('limiter'), ...numbers(figures), off });

/** Holds true peaks at a ceiling. */
export const limiter: Kind<z.infer<typeof LimiterSchema>> = {
  word: 'limiter',
  initial: { does: 'limiter', ceilingDbtp: -1, releaseMs: 80 },
  figures,
  dependsOnLevel: true,
  keepsLevel: true,
  says: ({ ceilingDbtp }) => ` at ${levelText(ceilingDbtp)} dBTP`,
  frames: () => LIMITER_FRAMES,
  stage: (step, { sampleRate }) => new Limiter(step, sampleRate),
};
