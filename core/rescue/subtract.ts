import type { Stereo } from '../audio/planes.ts';
import type { MakeFft } from '../measure/fft.ts';
import { leftOver } from './follow.ts';
import {
  alignedSpectra,
  BINS,
  FRAME,
  framesOver,
  type LagLine,
  middleAndSide,
  planeOf,
  ROW,
  spectraOf,
} from './spectra.ts';

const { cos, floor, log10, max, min, PI, sqrt } = Math;

/** A mix, and a sound that is in it. */
export interface SubtractionRequest {
  mix: Stereo;
  reference: Stereo;
  /** Which sample of the reference lies at the start of the mix without a lag. */
  margin: number;
  lag: LagLine;
}

/** What was taken out of a mix. */
export interface Subtraction {
  taken: Stereo;
  /** The power of what was taken, and of what that may be wrong by: see {@link downDb}. Both are 0 where nothing was taken. */
  took: number;
  wrong: number;
  /** How the sound lay in the mix. */
  lag: LagLine;
}

/** Times and levels are found anew so often, each time weighted by what was left. */
const LAG_ROUNDS = 3;
const ROUNDS = 3;
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
/** A sound is taken out only where it is known so well that it goes down by this (dB); and no more than the other is claimed. */
const LEAST_DOWN_DB = 10;
const MOST_DOWN_DB = 25;
/** What is said is less than what is reckoned by this (dB): models err to the good side. */
const SPARE_DB = 3;

/** How far down a sound is after some subtractions, as far as the mix lets it be known (dB); null where nothing was taken. */
export function downDb(parts: Pick<Subtraction, 'took' | 'wrong'>[]): number | null {
  const took = parts.reduce((sum, part) => sum + part.took, 0);
  const wrong = parts.reduce((sum, part) => sum + part.wrong, 0);
  return took > 0 ? min(MOST_DOWN_DB, 10 * log10(took / max(wrong, 1e-30)) - SPARE_DB) : null;
}

/**
 * Takes a sound out of a mix that holds it: aligned to a part of a sample with its drift followed; its colour (for each side of the mix, from both
 * sides of the sound) by least squares over the whole, each bin weighted by the inverse power of what else sounds there; and its level over time.
 * The three are found in turn, several times.
 */
export function subtract(
  makeFft: MakeFft,
  { mix, reference, margin, lag: first }: SubtractionRequest,
): Subtraction {
  const fft = makeFft(FRAME);
  try {
    const samples = mix[0].length;
    const frames = framesOver(samples);
    const ours = mix.map((plane) => spectraOf(fft, plane));
    const [left, right] = ours.map(powerOf);
    const louder = ours[left >= right ? 0 : 1];
    const parts = middleAndSide(reference);
    const lag = { ...first };
    let theirs: Float32Array[] = [];
    for (let round = 0; round <= LAG_ROUNDS; round++) {
      theirs = parts.map((plane) => alignedSpectra(fft, plane, margin, frames, lag));
      // How the middle of the sound still lies off in the louder side of the mix.
      const off = round < LAG_ROUNDS ? leftOver(fft, louder, theirs[0]) : null;
      if (!off) continue;
      lag.atStart += off.atStart;
      lag.perSample += off.perSample;
    }
    const fit = new Fit(ours, theirs, frames);
    for (let round = 0; round < ROUNDS; round++) fit.improve();
    const { took, wrong } = fit.powers();
    const taken = fit.predicted().map((spectra) => planeOf(fft, spectra, samples));
    // What is hardly told from nothing is left alone.
    const isKnown = took > wrong * 10 ** (LEAST_DOWN_DB / 10);
    return isKnown
      ? { taken: [taken[0], taken[1]], took, wrong, lag }
      : { taken: [new Float32Array(samples), new Float32Array(samples)], took: 0, wrong: 0, lag };
  } finally {
    fft.close();
  }
}

function powerOf(spectra: Float32Array): number {
  let power = 0;
  for (let i = 0; i < spectra.length; i++) power += spectra[i] * spectra[i];
  return power;
}

/** Finds colour and level of a sound in a mix. */
class Fit {
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

  constructor(ours: Float32Array[], theirs: Float32Array[], frames: number) {
    this.ours = ours;
    this.theirs = theirs;
    this.frames = frames;
    this.whole = ours.map((spectra) => new Float32Array(spectra.length));
    this.weights = new Float32Array(frames * BINS);
    this.level = new Float32Array(frames).fill(1);
    this.levelSureness = new Float32Array(frames);
    this.levelOff = new Float32Array(frames);
  }

  improve(): void {
    this.weigh();
    this.fitColour();
    this.fitLevel();
  }

  /** What is predicted of each side of the mix. */
  predicted(): Float32Array[] {
    return this.whole.map((spectra) => {
      const scaled = new Float32Array(spectra.length);
      for (let frame = 0; frame < this.frames; frame++)
        for (let at = frame * ROW; at < (frame + 1) * ROW; at++) scaled[at] = this.level[frame] * spectra[at];
      return scaled;
    });
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
    const { ours, whole, level, weights, frames } = this;
    const rest = new Float64Array(BINS + 1);
    let mean = 0;
    for (const spectra of ours) mean += powerOf(spectra);
    mean /= frames * BINS;
    for (let frame = 0; frame < frames; frame++) {
      const gain = level[frame];
      rest.fill(0);
      for (let side = 0; side < 2; side++) {
        const [mix, sound] = [ours[side], whole[side]];
        for (let bin = 1, at = frame * ROW + 2; bin < BINS; bin++, at += 2) {
          const re = mix[at] - gain * sound[at];
          const im = mix[at + 1] - gain * sound[at + 1];
          rest[bin + 1] += re * re + im * im;
        }
      }
      for (let bin = 2; bin <= BINS; bin++) rest[bin] += rest[bin - 1];
      for (let bin = 1; bin < BINS; bin++) {
        const from = max(1, bin - POWER_AROUND);
        const to = min(BINS - 1, bin + POWER_AROUND) + 1;
        // Both sides together have twice the power of one.
        weights[frame * BINS + bin] = 1 / ((rest[to] - rest[from]) / (2 * (to - from)) + POWER_FLOOR * mean);
      }
    }
  }

  /** Fits the colour of each side: from the middle of the sound and from its side, bins together with those around them. */
  private fitColour(): void {
    const both = this.ours.map((mix) => this.sumsWith(mix));
    const own = this.ownSums();
    for (const [which, shared] of both.entries()) {
      const colour = Array.from({ length: 4 }, () => new Float64Array(BINS));
      for (let bin = 1; bin < BINS; bin++) this.solve(bin, own, shared, colour);
      this.colourIn(this.whole[which], colour);
    }
  }

  /** Powers of both parts of the sound, and what they share (real and imaginary part), summed up to each bin. */
  private ownSums(): Float64Array[] {
    const [middle, side] = this.theirs;
    const { weights, level, frames } = this;
    const [mm, ss, cr, ci] = Array.from({ length: 4 }, () => new Float64Array(BINS + 1));
    for (let frame = 0; frame < frames; frame++) {
      const power = level[frame] ** 2;
      if (power === 0) continue;
      for (let bin = 1, at = frame * ROW + 2; bin < BINS; bin++, at += 2) {
        const weight = weights[frame * BINS + bin] * power;
        const mr = middle[at];
        const mi = middle[at + 1];
        const sr = side[at];
        const si = side[at + 1];
        mm[bin + 1] += weight * (mr * mr + mi * mi);
        ss[bin + 1] += weight * (sr * sr + si * si);
        cr[bin + 1] += weight * (mr * sr + mi * si);
        ci[bin + 1] += weight * (mr * si - mi * sr);
      }
    }
    return [mm, ss, cr, ci].map(summedUp);
  }

  /** What the parts of the sound share with a side of the mix, in the same way. */
  private sumsWith(mix: Float32Array): Float64Array[] {
    const [middle, side] = this.theirs;
    const { weights, level, frames } = this;
    const [br, bi, er, ei] = Array.from({ length: 4 }, () => new Float64Array(BINS + 1));
    for (let frame = 0; frame < frames; frame++) {
      const gain = level[frame];
      if (gain === 0) continue;
      for (let bin = 1, at = frame * ROW + 2; bin < BINS; bin++, at += 2) {
        const weight = weights[frame * BINS + bin] * gain;
        const yr = weight * mix[at];
        const yi = weight * mix[at + 1];
        const mr = middle[at];
        const mi = middle[at + 1];
        const sr = side[at];
        const si = side[at + 1];
        br[bin + 1] += mr * yr + mi * yi;
        bi[bin + 1] += mr * yi - mi * yr;
        er[bin + 1] += sr * yr + si * yi;
        ei[bin + 1] += sr * yi - si * yr;
      }
    }
    return [br, bi, er, ei].map(summedUp);
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

  /** Predicts a side of the mix from both parts of the sound by their colours. */
  private colourIn(whole: Float32Array, [mr, mi, sr, si]: Float64Array[]): void {
    const [middle, side] = this.theirs;
    for (let frame = 0; frame < this.frames; frame++) {
      const first = frame * ROW;
      // What does not change at all in a frame has no phase: it is as loud as what changes slowest.
      whole[first] = mr[1] * middle[first] + sr[1] * side[first];
      for (let bin = 1, at = first + 2; bin < BINS; bin++, at += 2) {
        const re = middle[at];
        const im = middle[at + 1];
        const sideRe = side[at];
        const sideIm = side[at + 1];
        whole[at] = mr[bin] * re - mi[bin] * im + sr[bin] * sideRe - si[bin] * sideIm;
        whole[at + 1] = mr[bin] * im + mi[bin] * re + sr[bin] * sideIm + si[bin] * sideRe;
      }
    }
  }

  /** Fits how loud the sound is from moment to moment. */
  private fitLevel(): void {
    const { ours, whole, weights, level, levelSureness, frames } = this;
    const shared = new Float64Array(frames);
    const own = new Float64Array(frames);
    for (let frame = 0; frame < frames; frame++)
      for (let side = 0; side < 2; side++) {
        const [mix, sound] = [ours[side], whole[side]];
        for (let bin = 1, at = frame * ROW + 2; bin < BINS; bin++, at += 2) {
          const weight = weights[frame * BINS + bin];
          const re = sound[at];
          const im = sound[at + 1];
          shared[frame] += weight * (re * mix[at] + im * mix[at + 1]);
          own[frame] += weight * (re * re + im * im);
        }
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

/** Sums of all that comes before, so that any stretch is one difference. */
function summedUp(values: Float64Array): Float64Array {
  for (let i = 1; i < values.length; i++) values[i] += values[i - 1];
  return values;
}
