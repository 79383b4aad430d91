import { z } from 'zod';
import { Echo } from '../signal/echo.ts';
import { gainText } from '../words/figures.ts';
import { type Kind, numbers, off } from './kind.ts';

const figures = {
  apartMs: { label: 'repeats after', unit: 'ms', min: 1, max: 2000 },
  firstDb: { label: 'first at', unit: 'dB', min: -60, max: 0 },
  fallDb: { label: 'each quieter by', unit: 'dB', min: 1, max: 60 },
};

export const EchoSchema = z.strictObject({ does: z.literal('echo'), ...numbers(figures), off });

/** Repeats a sound as an effect, each time quieter. */
export const echo: Kind<z.infer<typeof EchoSchema>> = {
  word: 'echo',
  initial: { does: 'echo', apartMs: 350, firstDb: -10, fallDb: 8 },
  figures,
  dependsOnLevel: false,
  keepsLevel: false,
  says: ({ apartMs, firstDb, fallDb }) =>
    ` every ${apartMs} ms, from ${gainText(firstDb)} dB down by ${fallDb} dB each`,
  stage: (step, { sampleRate }) => new Echo(step, sampleRate),
};
