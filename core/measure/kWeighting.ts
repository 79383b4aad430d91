import type { Stereo } from '../audio/planes.ts';
import { pairRoom, ROOM_FRAMES } from '../kernels/pairRoom.ts';
import { flushed } from '../signal/biquad.ts';
import { kWeightingFor } from '../signal/kCoefficients.ts';

const { min } = Math;

/** Where coefficients, state and powers stand among the doubles of the room. */
const SECTIONS = 0;
const STATE = 8;
const POWERS = 16;

/** K-weights two channels at once; the filter state lives as long as the object. */
export class KWeighting {
  /** The sum of the squares of each channel, as weighted by the last call of {@link process}. */
  readonly powers: [first: number, second: number] = [0, 0];
  private readonly sections: Float64Array;
  private readonly state = new Float64Array(8);
  private readonly room = pairRoom();

  constructor(sampleRate: number) {
    const [{ b0, b1, b2, a1, a2 }, { a1: c1, a2: c2 }] = kWeightingFor(sampleRate);
    this.sections = Float64Array.of(b0, b1, b2, a1, a2, c1, c2);
  }

  /**
   * Weights `frames` frames from `start` on.
   * @param planes the same plane twice, where there is one channel
   * @param outputs gets what comes out, from its beginning; left out where only {@link powers} matter
   */
  process(planes: Stereo, start: number, frames: number, outputs: Stereo | null = null): void {
    const { room, state, powers } = this;
    powers[0] = 0;
    powers[1] = 0;
    room.doubles.set(this.sections, SECTIONS);
    room.doubles.set(state, STATE);
    for (let done = 0; done < frames; done += ROOM_FRAMES)
      this.portion(planes, start + done, min(ROOM_FRAMES, frames - done), outputs, done);
    for (let i = 0; i < state.length; i++) state[i] = flushed(room.doubles[STATE + i]);
  }

  private portion(planes: Stereo, start: number, frames: number, outputs: Stereo | null, to: number): void {
    const { room, powers } = this;
    room.take(planes, start, frames);
    room.kernels.loops.kWeight(
      room.leftAt,
      room.rightAt,
      room.outLeftAt,
      room.outRightAt,
      frames,
      room.doubleAt(STATE),
      room.doubleAt(SECTIONS),
      room.doubleAt(POWERS),
    );
    powers[0] += room.doubles[POWERS];
    powers[1] += room.doubles[POWERS + 1];
    if (!outputs) return;
    for (let side = 0; side < 2; side++) outputs[side].set(room.outputs[side].subarray(0, frames), to);
  }
}
