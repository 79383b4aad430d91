import { z } from 'zod';
import type { DeviceEffect } from './wiring.ts';

const hz = z.number().min(10, 'must be 10 Hz or more').max(20_000, 'must be 20000 Hz or less');
const ms = z.number().min(0.1).max(5000);
const off = z.boolean().optional().describe('Left out of the sound for now, for comparing.');

export const ProcessorSchema = z.discriminatedUnion('does', [
  z.strictObject({ does: z.literal('trim'), gainDb: z.number().min(-40).max(40), off }),
  z.strictObject({ does: z.literal('high-pass'), hz, off }),
  z.strictObject({
    does: z.literal('band'),
    shape: z.enum(['low-shelf', 'bell', 'high-shelf']),
    hz,
    gainDb: z.number().min(-24).max(24),
    q: z.number().min(0.1).max(20),
    off,
  }),
  z.strictObject({
    does: z.literal('gate'),
    opensDb: z.number().min(-100).max(0),
    hysteresisDb: z.number().min(0).max(24),
    rangeDb: z.number().min(-100).max(0),
    attackMs: ms,
    holdMs: z.number().min(0).max(5000),
    releaseMs: ms,
    off,
  }),
  z.strictObject({
    does: z.literal('compressor'),
    thresholdDb: z.number().min(-80).max(0),
    ratio: z.number().min(1).max(40),
    kneeDb: z.number().min(0).max(24),
    attackMs: ms,
    releaseMs: ms,
    makeUpDb: z.number().min(-24).max(24),
    off,
  }),
]);
/** One step of the processing of a source. */
export type Processor = z.infer<typeof ProcessorSchema>;

export const ProcessingSchema = z.array(ProcessorSchema).max(16);
/** What is done to a source before anybody gets it, step by step. */
export type Processing = z.infer<typeof ProcessingSchema>;

/** A step of each kind as it is when it is added: what suits a voice that is close to its microphone. */
export const NEW_PROCESSORS: { [Does in Processor['does']]: Extract<Processor, { does: Does }> } = {
  trim: { does: 'trim', gainDb: 0 },
  'high-pass': { does: 'high-pass', hz: 80 },
  band: { does: 'band', shape: 'bell', hz: 3000, gainDb: 3, q: 1 },
  gate: {
    does: 'gate',
    opensDb: -45,
    hysteresisDb: 4,
    rangeDb: -40,
    attackMs: 2,
    holdMs: 150,
    releaseMs: 120,
  },
  compressor: {
    does: 'compressor',
    thresholdDb: -24,
    ratio: 3,
    kneeDb: 6,
    attackMs: 8,
    releaseMs: 120,
    makeUpDb: 4,
  },
};

/** What a step is called. */
export const STEP_WORDS: Record<Processor['does'], string> = {
  trim: 'trim',
  'high-pass': 'high-pass',
  band: 'equaliser band',
  gate: 'noise gate',
  compressor: 'compressor',
};

/** Where the second gate or compressor of a processing stands, if two of a kind are on; else −1. (Several bands make one equaliser.) */
export function repeatedAt(processing: Processing): number {
  const seen = new Set<string>();
  return processing.findIndex((step) => {
    if (step.off || (step.does !== 'gate' && step.does !== 'compressor')) return false;
    if (seen.has(step.does)) return true;
    seen.add(step.does);
    return false;
  });
}

/** What a step does, in the words that are used for devices; undefined for what they are not said to do. */
export function effectOf({ does }: Processor): DeviceEffect | undefined {
  if (does === 'band') return 'equaliser';
  return does === 'gate' || does === 'compressor' ? does : undefined;
}
