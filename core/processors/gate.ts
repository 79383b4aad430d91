import { z } from 'zod';
import { Gate } from '../signal/gate.ts';
import { levelText } from '../words/figures.ts';
import { ATTACK, HOLD, type Kind, numbers, off, RELEASE } from './kind.ts';

const figures = {
  opensDb: { label: 'opens at', unit: 'dBFS', min: -100, max: 0 },
  rangeDb: { label: 'range', unit: 'dB', min: -100, max: 0 },
  hysteresisDb: { label: 'hysteresis', unit: 'dB', min: 0, max: 24 },
  attackMs: ATTACK,
  holdMs: HOLD,
  releaseMs: RELEASE,
};

export const GateSchema = z.strictObject({ does: z.literal('gate'), ...numbers(figures), off });

/** Closes while nobody speaks. */
export const gate: Kind<z.infer<typeof GateSchema>> = {
  word: 'noise gate',
  initial: {
    does: 'gate',
    opensDb: -45,
    hysteresisDb: 4,
    rangeDb: -40,
    attackMs: 2,
    holdMs: 150,
    releaseMs: 120,
  },
  figures,
  dependsOnLevel: true,
  keepsLevel: false,
  effect: 'gate',
  says: ({ opensDb, rangeDb }) => ` from ${levelText(opensDb)} dB on, down by ${Math.abs(rangeDb)} dB`,
  stage: (step, { sampleRate }) => new Gate(step, sampleRate),
};
