import type { SectionRoom } from './sectionRoom.ts';
import { BINS, ROW } from './spectra.ts';

const { cos, floor, max, min, PI, sqrt } = Math;

/** The level is followed over so many frames to each side (0.1 s). */
const LEVEL_FRAMES = 4;
/** A level that stands fewer times than this above its uncertainty is none. */
const LEVEL_STANDS = 4;
/** Colour is smooth: a bin is fitted with those around it, so many to each side at most, and one more for so many bins below it. */
const MOST_AROUND = 8;
const BINS_A_NEIGHBOUR = 30;
/** What else sounds is measured over so many bins to each side. */
const POWER_AROUND = 4;
const POWER_FLOOR = 1e-5;
const FIRST_AROUND = Int32Array.from({ length: BINS }, (_, bin) => max(1, bin - POWER_AROUND));
const END_AROUND = Int32Array.from({ length: BINS }, (_, bin) => min(BINS - 1, bin + POWER_AROUND) + 1);
/** Both sides together have twice the power of one. */
const SHARE_AROUND = Float64Array.from(FIRST_AROUND, (from, bin) => 1 / (2 * (END_AROUND[bin] - from)));
/** Frames that overlap share half of what they hold. */
const SHARED = 1.5;
const RIDGE = 1e-4;
/** Finds colour and level of a sound in a mix. */
export class Fit {
  private readonly room: SectionRoom;
  private readonly frames: number;
  private readonly theirs: Float32Array[];
  /** Nothing is predicted before the first colour is found. */
  private isColoured = false;
  private readonly level: Float32Array;
  private readonly levelSureness: Float32Array;
  /** By how much (squared) the level of single moments is off what is followed, beyond their own uncertainty. */
  private readonly levelOff: Float32Array;
  /** What the middle and the side of the sound weigh in each bin: the inverse of how unsure their colour is. */
  private readonly sureness = [new Float64Array(BINS), new Float64Array(BINS)];
  /** That of a bin of both sides of the mix together. */
  private readonly meanPower: number;

  /**
   * @param room with the spectra of both sides of the mix, and of the middle and the side of the sound, as it lies in the mix
   * @param power of all spectra of the mix
   */
  constructor(room: SectionRoom, frames: number, power: number) {
    const { theirs } = room.spectra(frames);
    this.room = room;
    this.frames = frames;
    this.theirs = theirs;
    this.level = new Float32Array(frames).fill(1);
    this.levelSureness = new Float32Array(frames);
    this.levelOff = new Float32Array(frames);
    this.meanPower = power / (frames * BINS);
  }

  /** Finds weights, colour and level once more. @returns by how much the level changed (the power of that, as a share of its own) */
  improve(): number {
    const before = this.level.slice();
    this.weigh();
    this.fitColour();
    this.fitLevel();
    let [changed, power] = [0, 0];
    for (const [frame, level] of this.level.entries()) {
      changed += (level - before[frame]) ** 2;
      power += level ** 2;
    }
    return power > 0 ? changed / power : 0;
  }

  /** Puts what is predicted of each side of the mix where the sound lay. It ends here: nothing can be improved afterwards. */
  keepPredicted(): void {
    const { room, level, frames } = this;
    for (let frame = 0; frame < frames; frame++) {
      room.predict(frame);
      room.keepPredicted(frame, level[frame]);
    }
  }

  /** The power of what is predicted, and of what it may be wrong by: its colour and its level are not sure, and levels may change quickly. */
  powers(): { took: number; wrong: number } {
    const { room, theirs, level, levelSureness, levelOff, sureness, frames } = this;
    const [unsure, unsureSide] = sureness.map((values) =>
      values.map((value) => (value > 0 ? (2 * SHARED) / value : 0)),
    );
    const [middle, side] = theirs;
    let [took, wrong, off] = [0, 0, 0];
    for (let frame = 0; frame < frames; frame++) {
      const gain = level[frame] ** 2;
      if (gain > 0)
        for (let bin = 1, at = frame * ROW + 2; bin < BINS; bin++, at += 2)
          wrong +=
            gain *
            (unsure[bin] * (middle[at] * middle[at] + middle[at + 1] * middle[at + 1]) +
              unsureSide[bin] * (side[at] * side[at] + side[at + 1] * side[at + 1]));
      room.predict(frame);
      const power = room.predictedPower();
      took += gain * power;
      if (gain > 0 && levelSureness[frame] > 0) wrong += (SHARED * power) / levelSureness[frame];
      off += power * levelOff[frame];
    }
    return { took, wrong: wrong + max(0, off) };
  }

  /** Weighs each bin by the inverse power of what the sound does not explain around it. */
  private weigh(): void {
    const { level, frames, room } = this;
    const least = POWER_FLOOR * this.meanPower;
    const summed = new Float64Array(BINS + 1);
    for (let frame = 0; frame < frames; frame++) {
      if (this.isColoured) room.predict(frame);
      const rest = room.restOf(frame, this.isColoured ? level[frame] : 0);
      for (let bin = 1; bin < BINS; bin++) summed[bin + 1] = summed[bin] + rest[bin];
      const weights = room.weights(frame);
      weights[0] = 0;
      for (let bin = 1; bin < BINS; bin++) {
        const from = FIRST_AROUND[bin];
        const to = END_AROUND[bin];
        weights[bin] = 1 / ((summed[to] - summed[from]) * SHARE_AROUND[bin] + least);
      }
    }
  }

  /** Fits the colour of each side: from the middle of the sound and from its side, bins together with those around them. */
  private fitColour(): void {
    const { level, frames, room } = this;
    room.clearSums();
    for (let frame = 0; frame < frames; frame++) if (level[frame] !== 0) room.addFitSums(frame, level[frame]);
    const sums = room.sums().map(summedUp);
    for (const side of [0, 1]) {
      const colour = Array.from({ length: 4 }, () => new Float64Array(BINS));
      const [own, shared] = [sums.slice(0, 4), sums.slice(4 * (side + 1), 4 * (side + 2))];
      for (let bin = 1; bin < BINS; bin++) this.solve(bin, own, shared, colour);
      // What does not change at all in a frame has no phase: it is as loud as what changes slowest.
      colour[0][0] = colour[0][1];
      colour[2][0] = colour[2][1];
      room.setColours(side, colour);
    }
    this.isColoured = true;
  }

  /** Solves the two by two system of both parts for a bin and those around it: what one part shares with the other is not counted twice. */
  private solve(bin: number, own: Float64Array[], shared: Float64Array[], colour: Float64Array[]): void {
    const around = min(MOST_AROUND, floor(bin / BINS_A_NEIGHBOUR));
    const from = max(1, bin - around);
    const to = min(BINS - 1, bin + around) + 1;
    const near = (sum: Float64Array) => sum[to] - sum[from];
    const [mm, ss, cr, ci] = own.map(near);
    const [br, bi, er, ei] = shared.map(near);
    const ridge = RIDGE * (mm + ss) + 1e-30;
    const [a, d] = [mm + ridge, ss + ridge];
    this.sureness[0][bin] = a;
    this.sureness[1][bin] = d;
    const det = a * d - cr * cr - ci * ci;
    colour[0][bin] = (d * br - (cr * er - ci * ei)) / det;
    colour[1][bin] = (d * bi - (cr * ei + ci * er)) / det;
    colour[2][bin] = (a * er - (cr * br + ci * bi)) / det;
    colour[3][bin] = (a * ei - (cr * bi - ci * br)) / det;
  }

  /** Fits how loud the sound is from moment to moment. */
  private fitLevel(): void {
    const { level, levelSureness, frames, room } = this;
    const shared = new Float64Array(frames);
    const own = new Float64Array(frames);
    for (let frame = 0; frame < frames; frame++) {
      room.predict(frame);
      [shared[frame], own[frame]] = room.levelSums(frame);
    }
    for (let frame = 0; frame < frames; frame++) {
      let [top, bottom] = [0, 0];
      for (let off = -LEVEL_FRAMES; off <= LEVEL_FRAMES; off++) {
        const fade = 0.5 + 0.5 * cos((PI * off) / (LEVEL_FRAMES + 1));
        top += fade * (shared[frame + off] ?? 0);
        bottom += fade * (own[frame + off] ?? 0);
      }
      levelSureness[frame] = bottom;
      level[frame] = bottom > 0 && top > LEVEL_STANDS * sqrt(SHARED * bottom) ? top / bottom : 0;
      const apart = own[frame] > 0 ? shared[frame] / own[frame] - level[frame] : 0;
      this.levelOff[frame] = own[frame] > 0 ? apart * apart - 1 / own[frame] : 0;
    }
  }
}

/** Sums of all that comes before each bin, so that those of any stretch are one difference. */
function summedUp(values: Float64Array): Float64Array {
  const sums = new Float64Array(values.length + 1);
  for (let i = 0; i < values.length; i++) sums[i + 1] = sums[i] + values[i];
  return sums;
}
