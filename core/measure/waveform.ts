import type { Stereo } from '../audio/planes.ts';
import { pairRoom, ROOM_FRAMES } from '../kernels/pairRoom.ts';

const { max, min, round } = Math;

/** The outline of a sound for drawing: the largest magnitude of each stretch of equal length, 0 to 1 and beyond. */
export class WaveformOutline {
  private readonly stretchFrames: number;
  private readonly room = pairRoom();
  private peaks: number[] = [];
  private current = 0;
  private filled = 0;

  /** @param stretchFrames how many frames each value stands for */
  constructor(stretchFrames: number) {
    this.stretchFrames = stretchFrames;
  }

  /** Takes the next `frames` frames of one or two planes. */
  add(planes: ArrayLike<Float32Array>, frames: number): void {
    const { kernels, leftAt, rightAt } = this.room;
    const { highest } = kernels.loops;
    const pair: Stereo = [planes[0], planes[1] ?? planes[0]];
    for (let from = 0; from < frames; ) {
      const count = min(ROOM_FRAMES, this.stretchFrames - this.filled, frames - from);
      this.room.take(pair, from, count);
      this.current = max(this.current, highest(leftAt, count), highest(rightAt, count));
      this.filled += count;
      from += count;
      if (this.filled === this.stretchFrames) this.close();
    }
  }

  /** Returns the outline so far, rounded to four digits, the last stretch included even when it is not full. */
  result(): number[] {
    return this.filled > 0 ? [...this.peaks, rounded(this.current)] : this.peaks;
  }

  private close(): void {
    this.peaks.push(rounded(this.current));
    this.current = 0;
    this.filled = 0;
  }
}

/** Returns an outline with at most so many values, each the largest of several. */
export function coarser(outline: number[], most: number): number[] {
  const each = Math.ceil(outline.length / most);
  if (each <= 1) return outline.map(rounded);
  return Array.from({ length: Math.ceil(outline.length / each) }, (_, at) =>
    rounded(max(...outline.slice(at * each, (at + 1) * each))),
  );
}

function rounded(value: number): number {
  return round(value * 10_000) / 10_000;
}
