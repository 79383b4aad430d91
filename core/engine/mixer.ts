import { DelayLine } from '../signal/delayLine.ts';
import { foldToMono } from '../signal/mono.ts';
import { LEFT_ALONE, type Schedule } from './compile.ts';
import { addHum } from './hum.ts';
import { BLOCK_FRAMES, newStereo, type Stereo } from './planes.ts';
import { CopyingChain, SourceChains } from './sourceChains.ts';

/** A gain that is moved reaches its new value after this many frames (10 ms). */
export const RAMP_FRAMES = 480;

/**
 * Mixes blocks after a schedule. It keeps the state of gain ramps and delays, so one mixer is used for one pass over the
 * sound. `process` allocates nothing and looks nothing up by name.
 *
 * @example
 * const mixer = new Mixer(compile(setup), 128);
 * mixer.process(inputs, silent, outputs, 0, 128);
 */
export class Mixer {
  readonly schedule: Schedule;
  private readonly current: Float64Array;
  private readonly target: Float64Array;
  private readonly step: Float64Array;
  private readonly left: Int32Array;
  /** Every plane: inputs and outputs are put in with each call, those in between are the mixer's own. */
  private readonly planes: Stereo[];
  private readonly silent: Uint8Array;
  private readonly delays: (DelayLine | null)[];
  private readonly shifted: Stereo;
  private readonly sourceChains: SourceChains;
  private readonly operationChains: (CopyingChain | null)[];
  private readonly firstBus: number;
  private frame = 0;

  /** @param maxFrames the longest stretch that a call of `process` ends at */
  constructor(schedule: Schedule, maxFrames: number) {
    const operations = schedule.operationGain.length;
    this.schedule = schedule;
    this.current = Float64Array.from(schedule.operationGain);
    this.target = Float64Array.from(schedule.operationGain);
    this.step = new Float64Array(operations);
    this.left = new Int32Array(operations);
    this.firstBus = schedule.planes - schedule.buses.length;
    const nothing: Stereo = [new Float32Array(0), new Float32Array(0)];
    this.planes = Array.from({ length: schedule.planes }, (_, plane) =>
      plane >= schedule.sourceIds.length && plane < this.firstBus ? newStereo(maxFrames) : nothing,
    );
    this.silent = new Uint8Array(schedule.planes);
    this.delays = Array.from({ length: operations }, (_, operation) => {
      const frames = schedule.operationDelay[operation];
      const drift = schedule.operationDrift[operation];
      return frames > 0 || drift !== 0 ? new DelayLine(frames, drift) : null;
    });
    this.shifted = newStereo(BLOCK_FRAMES);
    const { sourceIds } = schedule;
    this.sourceChains = new SourceChains(
      sourceIds.map((id, source) => ({ id, processing: schedule.chains[source] })),
      maxFrames,
    );
    this.operationChains = schedule.operationChains.map(
      (processing, operation) =>
        processing && new CopyingChain(processing, sourceIds, maxFrames, sourceIds.length + operation),
    );
  }

  /** Moves the gain of one operation to a new factor, along a straight line of {@link RAMP_FRAMES} frames. */
  moveGain(operation: number, gain: number): void {
    this.target[operation] = gain;
    this.left[operation] = RAMP_FRAMES;
    this.step[operation] = (gain - this.current[operation]) / RAMP_FRAMES;
  }

  /** The planes in which a source stands, processed, where the last call of `process` mixed it. */
  soundOf(source: number): Stereo {
    return this.planes[source];
  }

  /**
   * Mixes `frames` frames (at most a block), from index `start` of the given planes.
   * @param inputs one stereo pair for each source of the schedule
   * @param silent non-zero where a source is silent in these frames: it then costs nothing
   * @param outputs one stereo pair for each bus; overwritten. A mono bus gets the mean of both sides, twice
   */
  process(inputs: Stereo[], silent: Uint8Array, outputs: Stereo[], start: number, frames: number): void {
    const { operationFrom, operationTo, operationMono, buses, hums } = this.schedule;
    const { planes } = this;
    const end = start + frames;
    this.silent.set(silent);
    for (let source = 0; source < inputs.length; source++) planes[source] = inputs[source];
    this.sourceChains.process(planes, this.silent, start, end);
    for (let bus = 0; bus < outputs.length; bus++) planes[this.firstBus + bus] = outputs[bus];
    for (let plane = inputs.length; plane < planes.length; plane++) {
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
      const to = operationTo[operation];
      const delay = this.delays[operation];
      const chain = this.operationChains[operation];
      if (
        this.silent[from] !== 0 &&
        (chain === null || chain.isAtRest) &&
        (delay === null || delay.isQuiet)
      ) {
        this.skip(operation, frames);
        delay?.skip(frames);
        continue;
      }
      this.silent[to] = 0;
      const input = chain === null ? planes[from] : chain.process(planes[from], start, end, planes);
      if (delay !== null || operationMono[operation] !== 0)
        this.addBent(operation, input, planes[to], start, frames);
      else if (this.left[operation] > 0) this.addRamped(operation, input, planes[to], start, start, frames);
      else if (chain !== null) addScaled(input, planes[to], this.current[operation], start, end);
      else if (this.isSteadyPair(operation)) {
        const next = operation + 1;
        addPair(
          planes[from],
          this.current[operation],
          planes[operationFrom[next]],
          this.current[next],
          planes[to],
          start,
          end,
        );
        operation = next;
      } else addScaled(input, planes[to], this.current[operation], start, end);
    }
    for (let bus = 0; bus < outputs.length; bus++) {
      if (buses[bus].layout === 'mono') foldToMono(outputs[bus], start, end);
    }
    this.frame += frames;
  }

  /** Adds a plane that is delayed or folded on the way. */
  private addBent(operation: number, input: Stereo, out: Stereo, start: number, frames: number): void {
    const { operationFrom, operationMono, operationSide } = this.schedule;
    const { shifted } = this;
    const delay = this.delays[operation];
    const isSilentIn =
      this.silent[operationFrom[operation]] !== 0 && this.operationChains[operation] === null;
    if (delay) delay.process(input, isSilentIn, start, frames, shifted);
    else
      for (let i = 0; i < frames; i++) {
        shifted[0][i] = input[0][start + i];
        shifted[1][i] = input[1][start + i];
      }
    if (operationMono[operation] !== 0) foldToMono(shifted, 0, frames);
    const side = operationSide[operation];
    if (side !== 0) shifted[side === LEFT_ALONE ? 1 : 0].fill(0, 0, frames);
    this.addRamped(operation, shifted, out, 0, start, frames);
  }

  /** Tells whether the next operation goes to the same plane and is as plain as this one: both are then done at once. */
  private isSteadyPair(operation: number): boolean {
    const { operationFrom, operationTo, operationMono } = this.schedule;
    const next = operation + 1;
    return (
      next < operationTo.length &&
      operationTo[next] === operationTo[operation] &&
      this.left[next] === 0 &&
      this.delays[next] === null &&
      this.operationChains[next] === null &&
      operationMono[next] === 0 &&
      this.silent[operationFrom[next]] === 0
    );
  }

  private skip(operation: number, frames: number): void {
    const done = Math.min(frames, this.left[operation]);
    this.left[operation] -= done;
    this.current[operation] += this.step[operation] * done;
    if (this.left[operation] === 0) this.current[operation] = this.target[operation];
  }

  private addRamped(
    operation: number,
    input: Stereo,
    out: Stereo,
    inputStart: number,
    start: number,
    frames: number,
  ): void {
    let gain = this.current[operation];
    let left = this.left[operation];
    const step = this.step[operation];
    for (let i = 0; i < frames; i++) {
      if (left > 0) {
        gain += step;
        left -= 1;
        if (left === 0) gain = this.target[operation];
      }
      out[0][start + i] += input[0][inputStart + i] * gain;
      out[1][start + i] += input[1][inputStart + i] * gain;
    }
    this.current[operation] = gain;
    this.left[operation] = left;
  }
}

/** Adds two scaled inputs at once, which halves the traffic to the output. */
function addPair(
  one: Stereo,
  gainOne: number,
  two: Stereo,
  gainTwo: number,
  out: Stereo,
  start: number,
  end: number,
): void {
  for (let side = 0; side < 2; side++) {
    const a = one[side];
    const b = two[side];
    const sum = out[side];
    for (let frame = start; frame < end; frame++) sum[frame] += a[frame] * gainOne + b[frame] * gainTwo;
  }
}

function addScaled(input: Stereo, out: Stereo, gain: number, start: number, end: number): void {
  const [inLeft, inRight] = input;
  const [outLeft, outRight] = out;
  for (let frame = start; frame < end; frame++) {
    outLeft[frame] += inLeft[frame] * gain;
    outRight[frame] += inRight[frame] * gain;
  }
}
