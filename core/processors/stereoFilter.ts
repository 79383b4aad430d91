import type { Stereo } from '../audio/planes.ts';
import { pairRoom, ROOM_FRAMES } from '../kernels/pairRoom.ts';
import { type Coefficients, flushed } from '../signal/biquad.ts';
import type { Stage } from './kind.ts';

/** Where coefficients and state of a filter stand among the doubles of the room. */
const SECTION = 0;
const STATE = 6;

/** A filter of second order on both sides. */
export class StereoFilter implements Stage {
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
