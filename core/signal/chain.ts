import type { Stereo } from '../engine/planes.ts';
import type { Processing, Processor } from '../setup/processing.ts';
import { Biquad, type Coefficients, coefficientsOf } from './biquad.ts';
import { Compressor } from './compressor.ts';
import { fromDb } from './decibel.ts';
import { Gate } from './gate.ts';

/** What works on both sides of a sound in place; its state lives as long as the object. */
export interface Stage {
  /** True when silence that goes in would come out as silence, and leave it as it is. */
  readonly isAtRest: boolean;
  process(planes: Stereo, start: number, end: number): void;
}

/** A maximally flat high-pass has this quality. */
const FLAT_Q = Math.SQRT1_2;

/** The filter that a step is, if it is one. */
export function filterOf(step: Processor, sampleRate: number): Coefficients | null {
  if (step.does === 'high-pass') return coefficientsOf('high-pass', step.hz, FLAT_Q, 0, sampleRate);
  if (step.does === 'band') return coefficientsOf(step.shape, step.hz, step.q, step.gainDb, sampleRate);
  return null;
}

/** A source's processing, ready to work: the steps that are on, in their order. It allocates nothing while it works. */
export class Chain {
  private readonly stages: Stage[];

  constructor(processing: Processing, sampleRate: number) {
    this.stages = processing.filter(({ off }) => !off).map((step) => stageOf(step, sampleRate));
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
  process(planes: Stereo, start: number, end: number): void {
    for (let i = 0; i < this.stages.length; i++) this.stages[i].process(planes, start, end);
  }
}

function stageOf(step: Processor, sampleRate: number): Stage {
  switch (step.does) {
    case 'trim':
      return new Trim(step.gainDb);
    case 'gate':
      return new Gate(step, sampleRate);
    case 'compressor':
      return new Compressor(step, sampleRate);
    case 'high-pass':
    case 'band':
      return new StereoFilter(filterOf(step, sampleRate) as Coefficients);
  }
}

class Trim implements Stage {
  readonly isAtRest = true;
  private readonly gain: number;

  constructor(gainDb: number) {
    this.gain = fromDb(gainDb);
  }

  process([left, right]: Stereo, start: number, end: number): void {
    for (let i = start; i < end; i++) {
      left[i] *= this.gain;
      right[i] *= this.gain;
    }
  }
}

class StereoFilter implements Stage {
  private readonly left: Biquad;
  private readonly right: Biquad;

  constructor(section: Coefficients) {
    this.left = new Biquad(section);
    this.right = new Biquad(section);
  }

  get isAtRest(): boolean {
    return this.left.isAtRest && this.right.isAtRest;
  }

  process([left, right]: Stereo, start: number, end: number): void {
    this.left.process(left, start, end);
    this.right.process(right, start, end);
  }
}
