import { fromDb } from '../audio/decibel.ts';
import { BLOCK_FRAMES, isSilent, newStereo, type Stereo } from '../audio/planes.ts';
import { pairRoom, ROOM_FRAMES } from '../kernels/pairRoom.ts';
import { type Coefficients, flushed } from '../signal/biquad.ts';
import { Compressor } from '../signal/compressor.ts';
import { DelayLine } from '../signal/delayLine.ts';
import { Ducker } from '../signal/ducker.ts';
import { Gate } from '../signal/gate.ts';
import { Limiter } from '../signal/limiter.ts';
import { foldToMono } from '../signal/mono.ts';
import { NoiseReduction } from '../signal/noiseReduction.ts';
import { filterOf } from './filterOf.ts';
import { delayFrames } from './latency.ts';
import { type Processing, type Processor, stepsOn } from './processing.ts';

/** What works on both sides of a sound in place; its state lives as long as the object. */
export interface Stage {
  /** True when silence that goes in would come out as silence, and leave it as it is. */
  readonly isAtRest: boolean;
  /** @param sources the same frames of every source, for what listens to another one */
  process(planes: Stereo, start: number, end: number, sources: readonly Stereo[]): void;
}

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
    const indexOf = (id: string) => sourceIds.indexOf(id);
    this.stages = stepsOn(processing).map((step) => stageOf(step, sampleRate, indexOf, place));
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

function stageOf(
  step: Processor,
  sampleRate: number,
  indexOf: (source: string) => number,
  place: number,
): Stage {
  switch (step.does) {
    case 'trim':
      return new Scale(fromDb(step.gainDb));
    case 'polarity':
      return new Scale(-1);
    case 'mono fold':
      return new MonoFold();
    case 'delay':
      return new Delay(delayFrames(step.delayMs, sampleRate));
    case 'gate':
      return new Gate(step, sampleRate);
    case 'noise reduction':
      return new NoiseReduction(step, place);
    case 'compressor':
      return new Compressor(step, sampleRate);
    case 'ducking':
      return new Ducker(step, indexOf(step.key), sampleRate);
    case 'limiter':
      return new Limiter(step, sampleRate);
    case 'high-pass':
    case 'band':
      return new StereoFilter(filterOf(step, sampleRate) as Coefficients);
  }
}

class Scale implements Stage {
  readonly isAtRest = true;
  private readonly gain: number;

  constructor(gain: number) {
    this.gain = gain;
  }

  process([left, right]: Stereo, start: number, end: number): void {
    for (let i = start; i < end; i++) {
      left[i] *= this.gain;
      right[i] *= this.gain;
    }
  }
}

class MonoFold implements Stage {
  readonly isAtRest = true;

  process(planes: Stereo, start: number, end: number): void {
    foldToMono(planes, start, end);
  }
}

class Delay implements Stage {
  private readonly line: DelayLine;
  private readonly late = newStereo(BLOCK_FRAMES);

  constructor(frames: number) {
    this.line = new DelayLine(frames, 0);
  }

  get isAtRest(): boolean {
    return this.line.isQuiet;
  }

  process(planes: Stereo, start: number, end: number): void {
    for (let at = start; at < end; at += BLOCK_FRAMES) {
      const count = Math.min(BLOCK_FRAMES, end - at);
      this.line.process(planes, isSilent(planes, at, at + count), at, count, this.late);
      for (let side = 0; side < 2; side++)
        for (let i = 0; i < count; i++) planes[side][at + i] = this.late[side][i];
    }
  }
}

/** Where coefficients and state of a filter stand among the doubles of the room. */
const SECTION = 0;
const STATE = 6;

class StereoFilter implements Stage {
  private readonly section: Float64Array;
  /** Two values of the left side's filter, each with its like of the right. */
  private readonly state = new Float64Array(4);
  private readonly room = pairRoom();

  constructor({ b0, b1, b2, a1, a2 }: Coefficients) {
    this.section = Float64Array.of(b0, b1, b2, a1, a2);
  }

  get isAtRest(): boolean {
    const { state } = this;
    return state[0] === 0 && state[1] === 0 && state[2] === 0 && state[3] === 0;
  }

  process(planes: Stereo, start: number, end: number): void {
    const { room, state, section } = this;
    room.doubles.set(section, SECTION);
    room.doubles.set(state, STATE);
    for (let at = start; at < end; at += ROOM_FRAMES) {
      const frames = Math.min(ROOM_FRAMES, end - at);
      room.take(planes, at, frames);
      const { leftAt, rightAt } = room;
      room.kernels.loops.filterPair(leftAt, rightAt, frames, room.doubleAt(SECTION), room.doubleAt(STATE));
      room.give(planes, at, frames);
    }
    for (let i = 0; i < state.length; i++) state[i] = flushed(room.doubles[STATE + i]);
  }
}
