import { Kernels } from '../kernels/kernels.ts';
import { BINS, ROW } from './spectra.ts';

/** For each bin so many doubles, and so many rows of a spectrum beside those of a section, are worked on at a time. */
const SUMS = 12;
const SPARE_ROWS = 12;
const BYTES = Float32Array.BYTES_PER_ELEMENT;

/**
 * The spectra of a section of a mix and of a sound in it, in the memory of the loops that work on them, frame after frame (see spectra.ts). It is
 * used for one section after another: a section takes 50 MB.
 */
export class SectionRoom {
  private readonly kernels: Kernels;
  private readonly most: number;
  private readonly allOurs: Float32Array[];
  private readonly allTheirs: Float32Array[];
  private readonly allWeights: Float32Array;
  private readonly rest: Float32Array;
  /** What is predicted of both sides in a frame, and how both parts of the sound are coloured in each of them. */
  private readonly rows: Float32Array[];
  private readonly colours: Float32Array[];
  private readonly fitSums: Float64Array;
  private readonly two: Float64Array;

  /** @param frames of the longest section */
  constructor(frames: number) {
    this.most = frames;
    this.kernels = new Kernels(4 * frames * ROW + frames * BINS + SPARE_ROWS * ROW + 2 * (SUMS + 1) * BINS);
    const sides = (length: number) => [this.kernels.floats(length), this.kernels.floats(length)];
    this.allOurs = sides(frames * ROW);
    this.allTheirs = sides(frames * ROW);
    this.allWeights = this.kernels.floats(frames * BINS);
    this.rest = this.kernels.floats(BINS);
    this.rows = sides(ROW);
    this.colours = sides(4 * ROW);
    this.fitSums = this.kernels.doubles(SUMS * BINS);
    this.two = this.kernels.doubles(2);
  }

  /** Tells whether a section of so many frames fits in. */
  holds(frames: number): boolean {
    return frames <= this.most;
  }

  /** Where the spectra of both sides of the mix lie, and those of both parts of the sound: what is predicted of both sides, in the end. */
  spectra(frames: number): { ours: Float32Array[]; theirs: Float32Array[] } {
    const of = (all: Float32Array[]) => all.map((spectra) => spectra.subarray(0, frames * ROW));
    return { ours: of(this.allOurs), theirs: of(this.allTheirs) };
  }

  /** The weights of the bins of a frame. The first bin, which packs two ends of the spectrum, has none. */
  weights(frame: number): Float32Array {
    return this.allWeights.subarray(frame * BINS, (frame + 1) * BINS);
  }

  /** The power of what the sound at some level leaves of the mix in a frame, of both sides together, for each bin. */
  restOf(frame: number, level: number): Float32Array {
    const [left, right] = this.addressesOf(this.allOurs, frame);
    const [soundLeft, soundRight] = this.rows.map(({ byteOffset }) => byteOffset);
    this.kernels.loops.restOfPair(left, right, soundLeft, soundRight, level, this.rest.byteOffset, BINS);
    return this.rest;
  }

  clearSums(): void {
    this.fitSums.fill(0);
  }

  addFitSums(frame: number, level: number): void {
    const [left, right] = this.addressesOf(this.allOurs, frame);
    const [first, second] = this.addressesOf(this.allTheirs, frame);
    this.kernels.loops.addFitSums(
      left,
      right,
      first,
      second,
      this.weights(frame).byteOffset,
      level,
      BINS,
      this.fitSums.byteOffset,
    );
  }

  /** What was added for each bin: see {@link Kernels}' `addFitSums`. */
  sums(): Float64Array[] {
    return Array.from({ length: SUMS }, (_, list) => this.fitSums.subarray(list * BINS, (list + 1) * BINS));
  }

  /** Says how both parts of the sound are coloured in one side: real and imaginary part of the first, then of the second. */
  setColours(side: number, colour: Float64Array[]): void {
    const colours = this.colours[side];
    for (let part = 0; part < 2; part++) {
      const [real, imaginary] = [colour[2 * part], colour[2 * part + 1]];
      for (let bin = 0, at = 2 * part * ROW; bin < BINS; bin++, at += 2) {
        colours[at] = colours[at + 1] = real[bin];
        colours[at + ROW] = -imaginary[bin];
        colours[at + ROW + 1] = imaginary[bin];
      }
    }
  }

  /** Predicts both sides in a frame: both parts of the sound, coloured and added up. */
  predict(frame: number): void {
    const [first, second] = this.addressesOf(this.allTheirs, frame);
    for (const [side, row] of this.rows.entries()) {
      const colours = this.colours[side].byteOffset;
      this.kernels.loops.colourIn(first, second, colours, row.byteOffset, BINS);
      // The highest bin is packed into the lowest, and is not predicted.
      row[1] = 0;
    }
  }

  /** What mix and prediction share in a frame, and the power of the prediction, of both sides together, by the weights of that frame. */
  levelSums(frame: number): Float64Array {
    const { rows, two } = this;
    const weights = this.weights(frame).byteOffset;
    two.fill(0);
    for (const [side, mix] of this.addressesOf(this.allOurs, frame).entries())
      this.kernels.loops.addLevelSums(mix, rows[side].byteOffset, weights, BINS, two.byteOffset);
    return two;
  }

  /** The power of what is predicted of both sides, without the lowest and the highest bin. */
  predictedPower(): number {
    const { rows, kernels } = this;
    return rows.reduce((power, row) => {
      row[0] = 0;
      return power + kernels.loops.dot(row.byteOffset, row.byteOffset, ROW);
    }, 0);
  }

  /** Puts what is predicted, at some level, where the sound lies. */
  keepPredicted(frame: number, level: number): void {
    for (const [side, row] of this.rows.entries()) {
      this.kernels.loops.scale(row.byteOffset, level, ROW);
      this.allTheirs[side].set(row, frame * ROW);
    }
  }

  private addressesOf(spectra: Float32Array[], frame: number): number[] {
    return spectra.map(({ byteOffset }) => byteOffset + frame * ROW * BYTES);
  }
}
