import type { Schedule } from './compile.ts';

/** The engine works at this rate (Hz). */
export const SAMPLE_RATE = 48_000;
/** Frames in a block. */
export const BLOCK_FRAMES = 128;
/** A gain that is moved reaches its new value after this many frames (10 ms). */
export const RAMP_FRAMES = 480;

/** Two planes of equal length. */
export type Stereo = readonly [Float32Array, Float32Array];

/**
 * Mixes blocks after a schedule. It keeps the state of gain ramps, so one mixer is used for one pass over the
 * sound. `process` allocates nothing and looks nothing up by name.
 *
 * @example
 * const mixer = new Mixer(compile(setup));
 * mixer.process(inputs, silent, outputs, 0, 128);
 */
export class Mixer {
  readonly schedule: Schedule;
  private readonly current: Float64Array;
  private readonly target: Float64Array;
  private readonly step: Float64Array;
  private readonly left: Int32Array;

  constructor(schedule: Schedule) {
    this.schedule = schedule;
    this.current = Float64Array.from(schedule.operationGain);
    this.target = Float64Array.from(schedule.operationGain);
    this.step = new Float64Array(schedule.operationGain.length);
    this.left = new Int32Array(schedule.operationGain.length);
  }

  /** Moves the gain of one operation to a new factor, along a straight line of {@link RAMP_FRAMES} frames. */
  moveGain(operation: number, gain: number): void {
    this.target[operation] = gain;
    this.left[operation] = RAMP_FRAMES;
    this.step[operation] = (gain - this.current[operation]) / RAMP_FRAMES;
  }

  /**
   * Mixes `frames` frames, from index `start` of the given planes.
   * @param inputs one stereo pair for each source of the schedule
   * @param silent non-zero where a source is silent in these frames: it then costs nothing
   * @param outputs one stereo pair for each bus; overwritten. A mono bus gets the mean of both sides, twice
   */
  process(inputs: Stereo[], silent: Uint8Array, outputs: Stereo[], start: number, frames: number): void {
    const { operationSource, operationBus, buses } = this.schedule;
    const end = start + frames;
    for (let bus = 0; bus < outputs.length; bus++) {
      outputs[bus][0].fill(0, start, end);
      outputs[bus][1].fill(0, start, end);
    }
    for (let operation = 0; operation < operationSource.length; operation++) {
      const source = operationSource[operation];
      const out = outputs[operationBus[operation]];
      if (silent[source] !== 0) this.skip(operation, frames);
      else if (this.left[operation] > 0) this.addRamped(operation, inputs[source], out, start, end);
      else if (this.isSteadyPair(operation, silent)) {
        const next = operation + 1;
        addPair(
          inputs[source],
          this.current[operation],
          inputs[operationSource[next]],
          this.current[next],
          out,
          start,
          end,
        );
        operation = next;
      } else addScaled(inputs[source], out, this.current[operation], start, end);
    }
    for (let bus = 0; bus < outputs.length; bus++) {
      if (buses[bus].layout === 'mono') foldToMono(outputs[bus], start, end);
    }
  }

  /** Tells whether the next operation goes to the same bus and is as plain as this one: both are then done at once. */
  private isSteadyPair(operation: number, silent: Uint8Array): boolean {
    const { operationSource, operationBus } = this.schedule;
    const next = operation + 1;
    return (
      next < operationBus.length &&
      operationBus[next] === operationBus[operation] &&
      this.left[next] === 0 &&
      silent[operationSource[next]] === 0
    );
  }

  private skip(operation: number, frames: number): void {
    const done = Math.min(frames, this.left[operation]);
    this.left[operation] -= done;
    this.current[operation] += this.step[operation] * done;
    if (this.left[operation] === 0) this.current[operation] = this.target[operation];
  }

  private addRamped(operation: number, input: Stereo, out: Stereo, start: number, end: number): void {
    let gain = this.current[operation];
    let left = this.left[operation];
    const step = this.step[operation];
    for (let frame = start; frame < end; frame++) {
      if (left > 0) {
        gain += step;
        left -= 1;
        if (left === 0) gain = this.target[operation];
      }
      out[0][frame] += input[0][frame] * gain;
      out[1][frame] += input[1][frame] * gain;
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

function foldToMono(out: Stereo, start: number, end: number): void {
  const [left, right] = out;
  for (let frame = start; frame < end; frame++) {
    const mean = (left[frame] + right[frame]) * 0.5;
    left[frame] = mean;
    right[frame] = mean;
  }
}
