import { z } from 'zod';
import { IdSchema } from '../values.ts';
import type { DeviceEffect } from './deviceEffects.ts';

const hz = z.number().min(10, 'must be 10 Hz or more').max(20_000, 'must be 20000 Hz or less');
const ms = z.number().min(0.1).max(5000);
const holdMs = z.number().min(0).max(5000);
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
    holdMs,
    releaseMs: ms,
    off,
  }),
  z.strictObject({
    does: z.literal('noise reduction'),
    reduceDb: z.number().min(3).max(60).describe('By how much what is not voice becomes quieter.'),
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
  z.strictObject({
    does: z.literal('ducking'),
    key: IdSchema.describe('The source that makes room for itself: while it sounds, this one is quieter.'),
    opensDb: z.number().min(-100).max(0).describe('The level of the key from which on it ducks (dBFS, RMS).'),
    depthDb: z.number().min(0).max(60).describe('By how much it is quieter then.'),
    attackMs: ms,
    holdMs,
    releaseMs: ms,
    off,
  }),
  z.strictObject({
    does: z.literal('limiter'),
    ceilingDbtp: z.number().min(-30).max(0),
    releaseMs: ms,
    off,
  }),
  z.strictObject({ does: z.literal('polarity'), off }),
  z.strictObject({ does: z.literal('mono fold'), off }),
  z.strictObject({ does: z.literal('delay'), delayMs: z.number().min(0).max(2000), off }),
]);
/** One step of a processing. */
export type Processor = z.infer<typeof ProcessorSchema>;

/** A processing has no more steps than this. */
export const MOST_STEPS = 16;
export const ProcessingSchema = z.array(ProcessorSchema).max(MOST_STEPS);
/** What is done to a sound, step by step. */
export type Processing = z.infer<typeof ProcessingSchema>;

/** A step of each kind as it is when it is added: what suits a voice that is close to its microphone. The key of ducking is to be chosen. */
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
  'noise reduction': { does: 'noise reduction', reduceDb: 18 },
  compressor: {
    does: 'compressor',
    thresholdDb: -24,
    ratio: 3,
    kneeDb: 6,
    attackMs: 8,
    releaseMs: 120,
    makeUpDb: 4,
  },
  ducking: { does: 'ducking', key: '', opensDb: -40, depthDb: 12, attackMs: 40, holdMs: 300, releaseMs: 400 },
  limiter: { does: 'limiter', ceilingDbtp: -1, releaseMs: 80 },
  polarity: { does: 'polarity' },
  'mono fold': { does: 'mono fold' },
  delay: { does: 'delay', delayMs: 20 },
};

/** What a step is called. */
export const STEP_WORDS: Record<Processor['does'], string> = {
  trim: 'trim',
  'high-pass': 'high-pass',
  band: 'equaliser band',
  gate: 'noise gate',
  'noise reduction': 'noise reduction',
  compressor: 'compressor',
  ducking: 'ducking',
  limiter: 'limiter',
  polarity: 'polarity',
  'mono fold': 'mono fold',
  delay: 'delay',
};

/** Returns the steps that are on. */
export function stepsOn(processing: Processing = []): Processing {
  return processing.filter(({ off }) => !off);
}

/** The sources that a processing listens to, so as to duck under them; of steps that are off, too. */
export function keysOf(processing: Processing): string[] {
  return processing.flatMap((step) => (step.does === 'ducking' ? [step.key] : []));
}

/** Returns some sources with all that they listen to, and those in turn, by id. */
export function withKeys(
  sources: { id: string; processing?: Processing }[],
  ids: Iterable<string>,
): Set<string> {
  const found = new Set<string>();
  const need = (id: string) => {
    if (found.has(id)) return;
    found.add(id);
    keysOf(sources.find((one) => one.id === id)?.processing ?? []).forEach(need);
  };
  for (const id of ids) need(id);
  return found;
}

/** Returns a processing without the steps that listen to a source; itself when there is none. */
export function withoutKey(processing: Processing, source: string): Processing {
  return keysOf(processing).includes(source)
    ? processing.filter((step) => step.does !== 'ducking' || step.key !== source)
    : processing;
}

/** What a step does, in the words that are used for devices; undefined for what they are not said to do. */
export function effectOf({ does }: Processor): DeviceEffect | undefined {
  if (does === 'band') return 'equaliser';
  return does === 'gate' || does === 'compressor' || does === 'noise reduction' ? does : undefined;
}
