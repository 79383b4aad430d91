import { z } from 'zod';
import type { Stereo } from '../audio/planes.ts';
import type { Coefficients } from '../signal/biquad.ts';
import type { DeviceEffect } from './deviceEffects.ts';

/** A figure of a step: its label and unit where it is set, and its range. */
export interface Figure {
  label: string;
  unit: string;
  min: number;
  max: number;
  /** What it means, where the label does not say it. */
  about?: string;
}
export type Figures = Record<string, Figure>;

/** What works on both sides of a sound in place; its state lives as long as the object. */
export interface Stage {
  /** True when silence that goes in would come out as silence, and leave it as it is. */
  readonly isAtRest: boolean;
  /** @param sources the same frames of every source, for what listens to another one */
  process(planes: Stereo, start: number, end: number, sources: readonly Stereo[]): void;
}

/** What a stage is made for. */
export interface StageContext {
  sampleRate: number;
  /** Where a source stands among those that `process` is handed; −1 where there is none of that id. */
  indexOf(source: string): number;
  /** Its place among all that work at the same time: what works by frames spreads over blocks by it. */
  place: number;
}

/** Everything about one kind of processor; `Step` is one step of a processing. */
export interface Kind<Step> {
  /** What it is called. */
  word: string;
  /** A step as it is when it is added: what suits a voice that is close to its microphone. */
  initial: Step;
  figures: Figures;
  /** Whether what it does to a sound depends on how loud the sound is, and on both of its sides. */
  dependsOnLevel: boolean;
  /** Whether it leaves a level as it is (all but its peaks). */
  keepsLevel: boolean;
  /** The word for it where a device does it; without one, no device is said to do it. */
  effect?: DeviceEffect;
  /** Says what is set, to stand behind its word: " at 80 Hz". @param nameOf the name of a source */
  says(step: Step, nameOf: (source: string) => string): string;
  /** By how many frames a sound is later for it; none where it is missing. */
  frames?(step: Step, sampleRate: number): number;
  /** The filter that it is, if it is one. */
  filter?(step: Step, sampleRate: number): Coefficients;
  stage(step: Step, context: StageContext): Stage;
}

type Numbers<All extends Figures> = { [Key in keyof All]: z.ZodNumber };

/** The figures of a step as its schema has them. */
export function numbers<All extends Figures>(figures: All): Numbers<All> {
  const entries = Object.entries(figures).map(([key, { unit, min, max, about }]) => {
    const range = z
      .number()
      .min(min, `must be ${min} ${unit}`.trim().concat(' or more'))
      .max(max, `must be ${max} ${unit}`.trim().concat(' or less'));
    return [key, about ? range.describe(about) : range];
  });
  return Object.fromEntries(entries) as Numbers<All>;
}

export const off = z.boolean().optional().describe('Left out of the sound for now, for comparing.');

/** Figures that several kinds have. */
export const HZ = { label: 'at', unit: 'Hz', min: 10, max: 20_000 } satisfies Figure;
export const ATTACK = { label: 'attack', unit: 'ms', min: 0.1, max: 5000 } satisfies Figure;
export const HOLD = { label: 'hold', unit: 'ms', min: 0, max: 5000 } satisfies Figure;
export const RELEASE = { label: 'release', unit: 'ms', min: 0.1, max: 5000 } satisfies Figure;
