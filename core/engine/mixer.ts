import { BLOCK_FRAMES, type Stereo } from '../audio/planes.ts';
import { Kernels } from '../kernels/kernels.ts';
import { DelayLine } from '../signal/delayLine.ts';
import { foldToMono } from '../signal/mono.ts';
import { LEFT_ALONE, type Schedule } from './compile.ts';
import { addHum } from './hum.ts';
import { CopyingChain, SourceChains } from './sourceChains.ts';

/** A gain that is moved reaches its new value after this many frames (10 ms). */
export const RAMP_FRAMES = 480;
/** Bytes of a float, and to how many floats an array is rounded up. */
const BYTES = 4;
const ALIGNED = 4;

/** How many floats of the loops' memory a mixer works in, when it mixes so many frames at most before they are taken. */
export function mixerRoom({ planes, operationChains }: Schedule, maxFrames: number): number {
  const own = operationChains.filter((processing) => processing !== null).length;
  return 2 * ((planes + own) * (maxFrames + ALIGNED) + BLOCK_FRAMES);
}

/**
 * Mixes blocks after a schedule, from its {@link inputs} to its {@link outputs}. It keeps the state of gain ramps and delays, so
 * one mixer is used for one pass over the sound. `process` allocates nothing and looks nothing up by name.
 *
 * @example
 * const mixer = new Mixer(compile(setup), 128);
 * mixer.inputs[0][0].set(left);
 * mixer.inputs[0][1].set(right);
 * mixer.process(silent, 0, 128);
 * mixer.outputs[0];
 */
export class Mixer {
  readonly schedule: Schedule;
  /** A stereo pair for each source, to be filled before `process`, which processes them in place. */
  readonly inputs: Stereo[];
  /** A stereo pair for each output. A mono output gets the mean of both sides, twice. */
  readonly outputs: Stereo[];
  private readonly kernels: Kernels;
  private readonly current: Float64Array;
  private readonly target: Float64Array;
  private readonly step: Float64Array;
  private readonly left: Int32Array;
  /** Every plane: inputs, places on the way, outputs. */
  private readonly planes: Stereo[];
  /** Where the two sides of each plane lie in memory: asking a typed array takes longer than adding it. */
  private readonly sidesAt: Int32Array;
  private readonly shiftedAt: Int32Array;
  private readonly processedAt: Int32Array;
  private readonly silent: Uint8Array;
  private readonly delays: (DelayLine | null)[];
  private readonly shifted: Stereo;
  private readonly sourceChains: SourceChains;
  private readonly operationChains: (CopyingChain | null)[];
  private frame = 0;

  /**
   * @param maxFrames how long inputs and outputs are
   * @param kernels to work in, with {@link mixerRoom} to spare
   */
  constructor(schedule: Schedule, maxFrames: number, kernels = new Kernels(mixerRoom(schedule, maxFrames))) {
    const operations = schedule.operationGain.length;
    const { sourceIds, outputs } = schedule;
    const newPlanes = (frames: number): Stereo => [kernels.floats(frames), kernels.floats(frames)];
    this.schedule = schedule;
    this.kernels = kernels;
    this.current = Float64Array.from(schedule.operationGain);
    this.target = Float64Array.from(schedule.operationGain);
    this.step = new Float64Array(operations);
    this.left = new Int32Array(operations);
    this.planes = Array.from({ length: schedule.planes }, () => newPlanes(maxFrames));
    this.inputs = this.planes.slice(0, sourceIds.length);
    this.outputs = this.planes.slice(schedule.planes - outputs.length);
    this.silent = new Uint8Array(schedule.planes);
    this.delays = Array.from({ length: operations }, (_, operation) => {
      const frames = schedule.operationDelay[operation];
      const drift = schedule.operationDrift[operation];
      return frames > 0 || drift !== 0 ? new DelayLine(frames, drift) : null;
    });
    this.shifted = newPlanes(BLOCK_FRAMES);
    this.sidesAt = addressesOf(this.planes);
    this.shiftedAt = addressesOf([this.shifted]);
    this.sourceChains = new SourceChains(
      sourceIds.map((id, source) => ({ id, processing: schedule.chains[source] })),
    );
    const processed = schedule.operationChains.map((processing) =>
      processing ? newPlanes(maxFrames) : null,
    );
    this.processedAt = addressesOf(processed);
    this.operationChains = schedule.operationChains.map((processing, operation) => {
      const planes = processed[operation];
      if (!processing || !planes) return null;
      return new CopyingChain(processing, sourceIds, planes, sourceIds.length + operation);
    });
  }

  /** Moves the gain of one operation to a new factor, along a straight line of {@link RAMP_FRAMES} frames. */
  moveGain(operation: number, gain: number): void {
    this.target[operation] = gain;
    this.left[operation] = RAMP_FRAMES;
    this.step[operation] = (gain - this.current[operation]) / RAMP_FRAMES;
  }

  /**
   * Mixes `frames` frames (at most a block) from index `start` of the inputs to the same place in the outputs.
   * @param silent non-zero where a source is silent in these frames: it then costs nothing
   */
  process(silent: Uint8Array, start: number, frames: number): void {
    const { operationFrom, operationTo, outputs, hums } = this.schedule;
    const { planes } = this;
    const end = start + frames;
    this.silent.set(silent);
    this.sourceChains.process(planes, this.silent, start, end);
    for (let plane = silent.length; plane < planes.length; plane++) {
      planes[plane][0].fill(0, start, end);
      planes[plane][1].fill(0, start, end);
      this.silent[plane] = 1;
    }
    for (let i = 0; i < hums.length; i++) {
      addHum(planes[hums[i]], start, end, this.frame);
      this.silent[hums[i]] = 0;
    }
    for (let operation = 0; operation < operationFrom.length; operation++) {
      const from = operationFrom[operation];
      const delay = this.delays[operation];
      const chain = this.operationChains[operation];
      if (
        this.silent[from] !== 0 &&
        (chain === null || chain.isAtRest) &&
        (delay === null || delay.isQuiet)
      ) {
        this.skip(operation, frames);
        delay?.skip(frames);
      } else {
        this.silent[operationTo[operation]] = 0;
        this.perform(operation, start, frames);
      }
    }
    for (let output = 0; output < outputs.length; output++) {
      if (outputs[output].layout === 'mono') foldToMono(this.outputs[output], start, end);
    }
    this.frame += frames;
  }

  /** Adds the sound of one operation to where it goes: processed, late, folded, and at its gain. */
  private perform(operation: number, start: number, frames: number): void {
    const { operationFrom, operationTo, operationMono } = this.schedule;
    const { planes, sidesAt } = this;
    const from = operationFrom[operation];
    const to = operationTo[operation];
    const chain = this.operationChains[operation];
    let input = chain === null ? planes[from] : chain.process(planes[from], start, start + frames, planes);
    let inputAt = chain === null ? sidesAt : this.processedAt;
    let place = chain === null ? from : operation;
    let at = start;
    if (this.delays[operation] !== null || operationMono[operation] !== 0) {
      this.bend(operation, input, start, frames);
      input = this.shifted;
      inputAt = this.shiftedAt;
      place = 0;
      at = 0;
    }
    if (this.left[operation] > 0) this.addRamped(operation, input, at, planes[to], start, frames);
    else
      this.kernels.loops.addPair(
        inputAt[2 * place] + BYTES * at,
        inputAt[2 * place + 1] + BYTES * at,
        this.current[operation],
        sidesAt[2 * to] + BYTES * start,
        sidesAt[2 * to + 1] + BYTES * start,
        frames,
      );
  }

  /** Delays or folds a stretch of sound on its way, into {@link shifted}. */
  private bend(operation: number, input: Stereo, start: number, frames: number): void {
    const { operationFrom, operationMono, operationSide } = this.schedule;
    const { shifted } = this;
    const delay = this.delays[operation];
    const isSilent = this.silent[operationFrom[operation]] !== 0 && this.operationChains[operation] === null;
    if (delay !== null) delay.process(input, isSilent, start, frames, shifted);
    else
      for (let i = 0; i < frames; i++) {
        shifted[0][i] = input[0][start + i];
        shifted[1][i] = input[1][start + i];
      }
    if (operationMono[operation] !== 0) foldToMono(shifted, 0, frames);
    const side = operationSide[operation];
    if (side !== 0) shifted[side === LEFT_ALONE ? 1 : 0].fill(0, 0, frames);
  }

  private skip(operation: number, frames: number): void {
    const done = Math.min(frames, this.left[operation]);
    this.left[operation] -= done;
    this.current[operation] += this.step[operation] * done;
    if (this.left[operation] === 0) this.current[operation] = this.target[operation];
  }

  private addRamped(
    operation: number,
    [left, right]: Stereo,
    at: number,
    [outLeft, outRight]: Stereo,
    start: number,
    frames: number,
  ): void {
    let gain = this.current[operation];
    let steps = this.left[operation];
    const step = this.step[operation];
    for (let i = 0; i < frames; i++) {
      if (steps > 0) {
        gain += step;
        steps -= 1;
        if (steps === 0) gain = this.target[operation];
      }
      outLeft[start + i] += left[at + i] * gain;
      outRight[start + i] += right[at + i] * gain;
    }
    this.current[operation] = gain;
    this.left[operation] = steps;
  }
}

/** The addresses (bytes) of both sides of each pair, one after the other; 0 where there is none. */
function addressesOf(pairs: (Stereo | null)[]): Int32Array {
  return Int32Array.from(pairs.flatMap((pair) => [pair?.[0].byteOffset ?? 0, pair?.[1].byteOffset ?? 0]));
}
