import { BLOCK_FRAMES, isSilent, type Stereo } from '../audio/planes.ts';
import type { Schedule } from './compile.ts';
import { Mixer } from './mixer.ts';

/**
 * Runs a mixer over longer stretches of sound: cuts them into blocks, marks the silent ones, and keeps the output
 * planes. Feeding the same sound in other portions gives the same samples, as long as portions are whole blocks.
 */
export class Renderer {
  readonly outputs: Stereo[];
  private readonly mixer: Mixer;
  private readonly silent: Uint8Array;

  /** @param maxFrames the longest portion that `render` will be given */
  constructor(schedule: Schedule, maxFrames: number) {
    this.mixer = new Mixer(schedule, maxFrames);
    this.silent = new Uint8Array(schedule.sourceIds.length);
    this.outputs = this.mixer.outputs;
  }

  /**
   * Renders `frames` frames of the inputs (one stereo pair a source) into {@link outputs}, which are overwritten
   * from their start.
   */
  render(inputs: Stereo[], frames: number): void {
    for (let source = 0; source < inputs.length; source++)
      for (let side = 0; side < 2; side++)
        this.mixer.inputs[source][side].set(inputs[source][side].subarray(0, frames));
    for (let start = 0; start < frames; start += BLOCK_FRAMES) {
      const size = Math.min(BLOCK_FRAMES, frames - start);
      for (let source = 0; source < inputs.length; source++) {
        this.silent[source] = isSilent(inputs[source], start, start + size) ? 1 : 0;
      }
      this.mixer.process(this.silent, start, size);
    }
  }
}
