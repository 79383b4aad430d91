import { z } from 'zod';
import { BandSchema, band } from './band.ts';
import { CompressorSchema, compressor } from './compressor.ts';
import { DelaySchema, delay } from './delay.ts';
import { DuckingSchema, ducking } from './ducking.ts';
import { EchoSchema, echo } from './echo.ts';
import { GateSchema, gate } from './gate.ts';
import { HighPassSchema, highPass } from './highPass.ts';
import type { Kind } from './kind.ts';
import { LevellerSchema, leveller } from './leveller.ts';
import { LimiterSchema, limiter } from './limiter.ts';
import { MonoFoldSchema, monoFold } from './monoFold.ts';
import { NoiseReductionSchema, noiseReduction } from './noiseReduction.ts';
import { PolaritySchema, polarity } from './polarity.ts';
import { ReverbSchema, reverb } from './reverb.ts';
import { TrimSchema, trim } from './trim.ts';

export const ProcessorSchema = z.discriminatedUnion('does', [
  TrimSchema,
  HighPassSchema,
  BandSchema,
  GateSchema,
  NoiseReductionSchema,
  CompressorSchema,
  LevellerSchema,
  DuckingSchema,
  LimiterSchema,
  PolaritySchema,
  MonoFoldSchema,
  DelaySchema,
  EchoSchema,
  ReverbSchema,
]);
/** One step of a processing. */
export type Processor = z.infer<typeof ProcessorSchema>;

/** A processing has no more steps than this. */
export const MOST_STEPS = 16;
export const ProcessingSchema = z.array(ProcessorSchema).max(MOST_STEPS);
/** What is done to a sound, step by step. */
export type Processing = z.infer<typeof ProcessingSchema>;

/** Every kind of processor, in the order in which they are offered. A new one is a file of its own, and a line here and above. */
export const PROCESSORS: { [Does in Processor['does']]: Kind<Extract<Processor, { does: Does }>> } = {
  trim,
  'high-pass': highPass,
  band,
  gate,
  'noise reduction': noiseReduction,
  compressor,
  leveller,
  ducking,
  limiter,
  polarity,
  'mono fold': monoFold,
  delay,
  echo,
  reverb,
};

/** Returns what is known of the kind that a step is. */
export function kindOf<Step extends Processor>({ does }: Step): Kind<Step> {
  return PROCESSORS[does] as unknown as Kind<Step>;
}

/** Returns what a step is called. */
export function wordFor(step: Processor): string {
  return kindOf(step).word;
}

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
