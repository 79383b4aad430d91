import type { Stereo } from '../audio/planes.ts';
import type { Stage } from './kind.ts';
import { kindOf, type Processing, stepsOn } from './processing.ts';

const NO_SOURCES: readonly Stereo[] = [];

/**
 * A processing, ready to work: the steps that are on, in their order. It allocates nothing while it works. Noise reduction has
 * to be loaded before (`loadNoiseReduction`).
 */
export class Chain {
  private readonly stages: Stage[];

  /**
   * @param sourceIds the sources, in the order in which `process` is handed them; for what listens to another one
   * @param place of all chains that work at the same time: steps that work by frames spread over blocks by it
   */
  constructor(processing: Processing, sampleRate: number, sourceIds: string[] = [], place = 0) {
    const context = { sampleRate, place, indexOf: (id: string) => sourceIds.indexOf(id) };
    this.stages = stepsOn(processing).map((step) => kindOf(step).stage(step, context));
  }

  /** Tells whether nothing is done. */
  get isEmpty(): boolean {
    return this.stages.length === 0;
  }

  /** Tells whether it need not work while silence goes in. */
  get isAtRest(): boolean {
    for (let i = 0; i < this.stages.length; i++) if (!this.stages[i].isAtRest) return false;
    return true;
  }

  /** Works on both sides in place, from index `start` up to `end`. */
  process(planes: Stereo, start: number, end: number, sources: readonly Stereo[] = NO_SOURCES): void {
    for (let i = 0; i < this.stages.length; i++) this.stages[i].process(planes, start, end, sources);
  }
}
