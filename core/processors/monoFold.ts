import { z } from 'zod';
import type { Stereo } from '../audio/planes.ts';
import { foldToMono } from '../signal/mono.ts';
import { type Kind, off, type Stage } from './kind.ts';

export const MonoFoldSchema = z.strictObject({ does: z.literal('mono fold'), off });

/** Both sides get the mean of the two. */
export const monoFold: Kind<z.infer<typeof MonoFoldSchema>> = {
  word: 'mono fold',
  initial: { does: 'mono fold' },
  figures: {},
  dependsOnLevel: false,
  keepsLevel: false,
  says: () => '',
  stage: () => new MonoFold(),
};

class MonoFold implements Stage {
  readonly isAtRest = true;

  process(planes: Stereo, start: number, end: number): void {
    foldToMono(planes, start, end);
  }
}
