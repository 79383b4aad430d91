import { fromDb } from '../audio/decibel.ts';
import { latencyFrames } from '../processors/latency.ts';
import { kindOf, PROCESSORS, type Processing, type Processor, stepsOn } from '../processors/processing.ts';
import { FRAMES_PER_MS, type GraphEdge, type GraphNode } from './graph.ts';

/** A path, as what it does to a sound: first what it is processed with, then a delay, perhaps a fold to mono, a factor. */
export interface Way {
  gain: number;
  /** Without what {@link processing} takes. */
  delayFrames: number;
  mono: boolean;
  /**
   * The steps on its way; those of the source itself come before. Where the order matters, the gain, the delay and the fold
   * up to a step stand among them as steps.
   */
  processing: Processing;
  /** Whether anything is done to it on its way that changes its level, beside the gains. */
  isProcessed: boolean;
  /**
   * Whether it passes a mix, a track or a destination where a step works on everything together, in a way that depends on the level
   * (a gate, a compressor, a limiter, noise reduction). Of one sound alone that cannot be said: {@link processing} has only
   * the time that it takes.
   */
  isBlended: boolean;
}

/**
 * Returns what a path does.
 * @param ownGainDb the gain of the source before its first leg
 * @param legs with the place that each leads to
 */
export function wayOf(ownGainDb: number, legs: { edge: GraphEdge; place: GraphNode }[]): Way {
  const gathered = new Gathered(ownGainDb);
  for (const { edge, place } of legs) {
    for (const step of stepsOn(edge.processing ?? [])) gathered.add(step);
    gathered.pass(edge);
    for (const step of stepsOn(place.processing ?? [])) gathered.addBlended(step);
  }
  return gathered.way();
}

/** The furthest that one step of its kind goes. */
const MOST_TRIM_DB = PROCESSORS.trim.figures.gainDb.max;
const MOST_DELAY_FRAMES = PROCESSORS.delay.figures.delayMs.max * FRAMES_PER_MS;

/** The steps of a path so far, and what comes after them. */
class Gathered {
  private readonly steps: Processing = [];
  private gainDb: number;
  private delayFrames = 0;
  private mono = false;
  private isProcessed = false;
  private isBlended = false;

  constructor(gainDb: number) {
    this.gainDb = gainDb;
  }

  pass({ gainDb, delayFrames, mono, channels }: GraphEdge): void {
    this.gainDb += gainDb;
    this.delayFrames += delayFrames;
    this.mono ||= mono || channels?.length === 1;
  }

  add(step: Processor): void {
    const { keepsLevel, dependsOnLevel } = kindOf(step);
    this.isProcessed ||= !keepsLevel;
    if (step.does === 'ducking') this.settleDelay();
    if (dependsOnLevel) this.settleGain();
    this.steps.push(step);
  }

  addBlended(step: Processor): void {
    const { keepsLevel, dependsOnLevel } = kindOf(step);
    if (dependsOnLevel) {
      this.isProcessed ||= !keepsLevel;
      this.isBlended = true;
      this.delayFrames += latencyFrames([step], FRAMES_PER_MS * 1000);
    } else this.add(step);
  }

  way(): Way {
    const { delayFrames, mono, steps: processing, isProcessed, isBlended } = this;
    return { gain: fromDb(this.gainDb), delayFrames, mono, processing, isProcessed, isBlended };
  }

  private settleGain(): void {
    for (; this.gainDb !== 0; ) {
      const gainDb = Math.max(-MOST_TRIM_DB, Math.min(MOST_TRIM_DB, this.gainDb));
      this.steps.push({ does: 'trim', gainDb });
      this.gainDb -= gainDb;
    }
    if (this.mono) this.steps.push({ does: 'mono fold' });
    this.mono = false;
  }

  private settleDelay(): void {
    for (; this.delayFrames > 0; ) {
      const frames = Math.min(MOST_DELAY_FRAMES, this.delayFrames);
      this.steps.push({ does: 'delay', delayMs: frames / FRAMES_PER_MS });
      this.delayFrames -= frames;
    }
  }
}
