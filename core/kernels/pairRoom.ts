import { BLOCK_FRAMES, type Stereo } from '../audio/planes.ts';
import { Kernels } from './kernels.ts';

/** The longest stretch that has room. */
export const ROOM_FRAMES = 1024;
/** Doubles that whoever works in the room has beside the planes: coefficients, state. */
const ROOM_DOUBLES = 32;
const BYTES_A_DOUBLE = 8;

/**
 * A pair of planes in the loops' memory, for work on sound that lies elsewhere: it is taken in, worked on, and given back. All
 * who work share one room a thread, one after the other. Whole planes of one block, as an audio callback has them, are taken
 * and given back without anything being allocated.
 *
 * @example
 * const room = pairRoom();
 * room.take(planes, 0, 128);
 * room.kernels.loops.addPair(room.leftAt, room.rightAt, 0.5, outLeftAt, outRightAt, 128);
 * room.give(planes, 0, 128);
 */
export class PairRoom {
  readonly kernels = new Kernels(4 * ROOM_FRAMES + 2 * ROOM_DOUBLES + 16);
  readonly planes: Stereo = [this.kernels.floats(ROOM_FRAMES), this.kernels.floats(ROOM_FRAMES)];
  /** A second pair, for what comes out where it is not to be in place. */
  readonly outputs: Stereo = [this.kernels.floats(ROOM_FRAMES), this.kernels.floats(ROOM_FRAMES)];
  readonly doubles = this.kernels.doubles(ROOM_DOUBLES);
  readonly leftAt = this.planes[0].byteOffset;
  readonly rightAt = this.planes[1].byteOffset;
  readonly outLeftAt = this.outputs[0].byteOffset;
  readonly outRightAt = this.outputs[1].byteOffset;
  private readonly doublesAt = this.doubles.byteOffset;
  private readonly blocks: Stereo = [
    this.planes[0].subarray(0, BLOCK_FRAMES),
    this.planes[1].subarray(0, BLOCK_FRAMES),
  ];

  /** The address of one of the {@link doubles}. */
  doubleAt(index: number): number {
    return this.doublesAt + BYTES_A_DOUBLE * index;
  }

  /** Takes a stretch in; at most {@link ROOM_FRAMES} frames. */
  take(planes: Stereo, start: number, frames: number): void {
    copyIn(planes[0], start, frames, this.planes[0]);
    copyIn(planes[1], start, frames, this.planes[1]);
  }

  /** Gives a stretch back. */
  give(planes: Stereo, start: number, frames: number): void {
    for (let side = 0; side < 2; side++) {
      const plane = planes[side];
      if (frames === BLOCK_FRAMES) plane.set(this.blocks[side], start);
      else if (frames > BLOCK_FRAMES) plane.set(this.planes[side].subarray(0, frames), start);
      else for (let i = 0; i < frames; i++) plane[start + i] = this.planes[side][i];
    }
  }
}

let shared: PairRoom | null = null;

/** Returns this thread's room. */
export function pairRoom(): PairRoom {
  shared ??= new PairRoom();
  return shared;
}

/** Short stretches go value by value: they may come from an audio callback, where nothing may be allocated. */
function copyIn(plane: Float32Array, start: number, frames: number, to: Float32Array): void {
  if (start === 0 && plane.length === frames) to.set(plane);
  else if (frames >= BLOCK_FRAMES) to.set(plane.subarray(start, start + frames));
  else for (let i = 0; i < frames; i++) to[i] = plane[start + i];
}
