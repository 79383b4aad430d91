import { Kernels } from '../kernels/kernels.ts';
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
const POWER_AROUND = 2;
const POWER_FLOOR = 1e-5;
/** Frames that overlap share half of what they hold. */
const SHARED = 1.5;
const RIDGE = 1e-4;
/** For each bin so many doubles, and so many rows of a spectrum, are worked on at a time. */
const SUMS = 12;
const ROWS = 12;

/** Finds colour and level of a sound in a mix. */
export class Fit {
  private readonly ours: Float32Array[];
  private readonly theirs: Float32Array[];
  private readonly frames: number;
  /** What is predicted of each side, at a level of one. */
  private readonly whole: Float32Array[];
  private readonly weights: Float32Array;
  private readonly level: Float32Array;
  private readonly levelSureness: Float32Array;
  /** By how much (squared) the level of single moments is off what is followed, beyond their own uncertainty. */
  private readonly levelOff: Float32Array;
  /** What the middle of the sound weighs in each bin: the inverse of how unsure its colour is. */
  private readonly sureness = new Float64Array(BINS);
  private readonly room = new FrameRoom();
  /** That of a bin of both sides of the mix together. */
  private readonly meanPower: number;

  /**
   * @param ours the spectra of both sides of the mix, frame after frame
   * @param theirs those of the middle and the side of the sound, as it lies in the mix
   */
  constructor(ours: Float32Array[], theirs: Float32Array[], frames: number) {
    this.ours = ours;
    this.theirs = theirs;
    this.frames = frames;
    this.whole = ours.map((spectra) => new Float32Array(spectra.length));
    this.weights = new Float32Array(frames * BINS);
    this.level = new Float32Array(frames).fill(1);
    this.levelSureness = new Float32Array(frames);
    this.levelOff = new Float32Array(frames);
    this.meanPower = (powerOf(ours[0]) + powerOf(ours[1])) / (frames * BINS);
  }

  improve(): void {
    this.weigh();
    this.fitColour();
    this.fitLevel();
  }

  /** What is predicted of each side of the mix. It ends here: nothing can be improved afterwards. */
  predicted(): Float32Array[] {
    const { whole, level, frames } = this;
    for (const spectra of whole)
      for (let frame = 0; frame < frames; frame++)
        for (let at = frame * ROW; at < (frame + 1) * ROW; at++) spectra[at] *= level[frame];
    return whole;
  }

  /** The power of what is predicted, and of what it may be wrong by: its colour and its level are not sure, and levels may change quickly. */
  powers(): { took: number; wrong: number } {
    const { theirs, whole, level, levelSureness, levelOff, sureness, frames } = this;
    let [took, wrong, off] = [0, 0, 0];
    for (let frame = 0; frame < frames; frame++) {
      let power = 0;
      const gain = level[frame] ** 2;
      for (let bin = 1; bin < BINS; bin++) {
        const at = frame * ROW + 2 * bin;
        for (const spectra of whole) power += spectra[at] ** 2 + spectra[at + 1] ** 2;
        if (sureness[bin] > 0)
          wrong += (2 * SHARED * gain * (theirs[0][at] ** 2 + theirs[0][at + 1] ** 2)) / sureness[bin];
      }
      took += gain * power;
      if (gain > 0 && levelSureness[frame] > 0) wrong += (SHARED * power) / levelSureness[frame];
      off += power * levelOff[frame];
    }
    return { took, wrong: wrong + max(0, off) };
  }

  /** Weighs each bin by the inverse power of what the sound does not explain around it. */
  private weigh(): void {
    const { ours, whole, level, weights, frames, room } = this;
    const least = POWER_FLOOR * this.meanPower;
    const summed = new Float64Array(BINS + 1);
    for (let frame = 0; frame < frames; frame++) {
      room.take(frame, ours, room.mix);
      room.take(frame, whole, room.sound);
      const rest = room.restWith(level[frame]);
      for (let bin = 1; bin < BINS; bin++) summed[bin + 1] = summed[bin] + rest[bin];
      const first = frame * BINS;
      for (let bin = 1; bin < BINS; bin++) {
        const from = max(1, bin - POWER_AROUND);
        const to = min(BINS - 1, bin + POWER_AROUND) + 1;
        // Both sides together have twice the power of one.
        weights[first + bin] = 1 / ((summed[to] - summed[from]) / (2 * (to - from)) + least);
      }
    }
  }

  /** Fits the colour of each side: from the middle of the sound and from its side, bins together with those around them. */
  private fitColour(): void {
    const { ours, theirs, whole, weights, level, frames, room } = this;
    room.clearSums();
    for (let frame = 0; frame < frames; frame++) {
      if (level[frame] === 0) continue;
      room.take(frame, ours, room.mix);
      room.take(frame, theirs, room.sound);
      room.weigh(frame, weights);
      room.addFitSums(level[frame]);
    }
    const sums = room.sums().map(summedUp);
    for (const [which, spectra] of whole.entries()) {
      const colour = Array.from({ length: 4 }, () => new Float64Array(BINS));
      const [own, shared] = [sums.slice(0, 4), sums.slice(4 * (which + 1), 4 * (which + 2))];
      for (let bin = 1; bin < BINS; bin++) this.solve(bin, own, shared, colour);
      // What does not change at all in a frame has no phase: it is as loud as what changes slowest.
      colour[0][0] = colour[0][1];
      colour[2][0] = colour[2][1];
      room.setColours(colour);
      for (let frame = 0; frame < frames; frame++) {
        room.take(frame, theirs, room.sound);
        spectra.set(room.coloured(), frame * ROW);
        spectra[frame * ROW + 1] = 0;
      }
    }
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
    const det = a * d - cr * cr - ci * ci;
    this.sureness[bin] = mm;
    colour[0][bin] = (d * br - (cr * er - ci * ei)) / det;
    colour[1][bin] = (d * bi - (cr * ei + ci * er)) / det;
    colour[2][bin] = (a * er - (cr * br + ci * bi)) / det;
    colour[3][bin] = (a * ei - (cr * bi - ci * br)) / det;
  }

  /** Fits how loud the sound is from moment to moment. */
  private fitLevel(): void {
    const { ours, whole, weights, level, levelSureness, frames, room } = this;
    const shared = new Float64Array(frames);
    const own = new Float64Array(frames);
    for (let frame = 0; frame < frames; frame++) {
      room.take(frame, ours, room.mix);
      room.take(frame, whole, room.sound);
      room.weigh(frame, weights);
      [shared[frame], own[frame]] = room.levelSums();
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

/** One frame of everything, in the memory of the loops that work on it. */
class FrameRoom {
  private readonly kernels = new Kernels(ROWS * ROW + 2 * (SUMS + 1) * BINS);
  /** Both sides of the mix; of the sound, both parts or what is predicted of both sides. */
  readonly mix = [this.kernels.floats(ROW), this.kernels.floats(ROW)];
  readonly sound = [this.kernels.floats(ROW), this.kernels.floats(ROW)];
  private readonly weights = this.kernels.floats(BINS);
  private readonly rest = this.kernels.floats(BINS);
  private readonly result = this.kernels.floats(ROW);
  private readonly colours = this.kernels.floats(4 * ROW);
  private readonly fitSums = this.kernels.doubles(SUMS * BINS);
  private readonly two = this.kernels.doubles(2);

  /** Takes a frame in of each of two spectra. */
  take(frame: number, spectra: Float32Array[], into: Float32Array[]): void {
    for (let side = 0; side < 2; side++)
      into[side].set(spectra[side].subarray(frame * ROW, (frame + 1) * ROW));
  }

  /** Takes the weights of a frame in. The first bin, which packs two ends of the spectrum, has none. */
  weigh(frame: number, weights: Float32Array): void {
    this.weights.set(weights.subarray(frame * BINS, (frame + 1) * BINS));
    this.weights[0] = 0;
  }

  /** The power of what the sound at some level leaves of the mix, of both sides together, for each bin. */
  restWith(level: number): Float32Array {
    const [left, right, soundLeft, soundRight] = this.addresses();
    this.kernels.loops.restOfPair(left, right, soundLeft, soundRight, level, this.rest.byteOffset, BINS);
    return this.rest;
  }

  clearSums(): void {
    this.fitSums.fill(0);
  }

  addFitSums(level: number): void {
    const [left, right, first, second] = this.addresses();
    const { weights, fitSums } = this;
    this.kernels.loops.addFitSums(
      left,
      right,
      first,
      second,
      weights.byteOffset,
      level,
      BINS,
      fitSums.byteOffset,
    );
  }

  /** What was added for each bin: see {@link Kernels}' `addFitSums`. */
  sums(): Float64Array[] {
    return Array.from({ length: SUMS }, (_, list) => this.fitSums.subarray(list * BINS, (list + 1) * BINS));
  }

  /** Says how both parts of the sound are coloured: real and imaginary part of the first, then of the second. */
  setColours(colour: Float64Array[]): void {
    for (let part = 0; part < 2; part++) {
      const [real, imaginary] = [colour[2 * part], colour[2 * part + 1]];
      for (let bin = 0, at = 2 * part * ROW; bin < BINS; bin++, at += 2) {
        this.colours.fill(real[bin], at, at + 2);
        this.colours[at + ROW] = -imaginary[bin];
        this.colours[at + ROW + 1] = imaginary[bin];
      }
    }
  }

  /** Both parts of the sound, coloured and added up. */
  coloured(): Float32Array {
    const [, , first, second] = this.addresses();
    this.kernels.loops.colourIn(first, second, this.colours.byteOffset, this.result.byteOffset, BINS);
    return this.result;
  }

  /** What mix and sound share, and the power of the sound, of both sides together. */
  levelSums(): Float64Array {
    const [left, right, soundLeft, soundRight] = this.addresses();
    const { weights, two } = this;
    two.fill(0);
    this.kernels.loops.addLevelSums(left, soundLeft, weights.byteOffset, BINS, two.byteOffset);
    this.kernels.loops.addLevelSums(right, soundRight, weights.byteOffset, BINS, two.byteOffset);
    return two;
  }

  private addresses(): number[] {
    return [...this.mix, ...this.sound].map(({ byteOffset }) => byteOffset);
  }
}

/** The power of some spectra. */
export function powerOf(spectra: Float32Array): number {
  let power = 0;
  for (let i = 0; i < spectra.length; i++) power += spectra[i] * spectra[i];
  return power;
}

/** Sums of all that comes before each bin, so that those of any stretch are one difference. */
function summedUp(values: Float64Array): Float64Array {
  const sums = new Float64Array(values.length + 1);
  for (let i = 0; i < values.length; i++) sums[i + 1] = sums[i] + values[i];
  return sums;
}
