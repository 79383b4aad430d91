import { fromDb } from '../audio/decibel.ts';
import { newStereo, type Stereo } from '../audio/planes.ts';
import type { MakeFft, RealFft } from '../measure/fft.ts';
import { takeOutCoderNoise } from './coderNoise.ts';
import { Fit } from './fit.ts';
import { leftOver } from './follow.ts';
import { SectionRoom } from './sectionRoom.ts';
import {
  FRAME,
  framesOver,
  type LagLine,
  powerOf,
  putTogether,
  takeApart,
  takeApartAligned,
  toMiddleAndSide,
} from './spectra.ts';

const { abs, log10, max, min } = Math;

/** A mix, and a sound that is in it. */
export interface SubtractionRequest {
  mix: Stereo;
  reference: Stereo;
  /** Which sample of the reference lies at the start of the mix without a lag. */
  margin: number;
  lag: LagLine;
  /** The mix had been through a coder that leaves something out: what that made of the sound goes with it. */
  isCoded: boolean;
}

/** What was taken out of a mix. */
export interface Subtraction {
  taken: Stereo;
  /** The power of what was taken, and of what that may be wrong by: see {@link downDb}. All are 0 where nothing was taken. */
  took: number;
  wrong: number;
  /** The power of what a coder made of the sound, and what was taken of others with that. */
  noise: number;
  /** How the sound lay in the mix. */
  lag: LagLine;
}

/**
 * Times and levels are found anew so often at most, each time weighted by what was left: times until they move by less than this (samples), levels
 * until they change by less than this share. Where a sound fills a section, three rounds do; where it begins or ends there, it takes more.
 */
const LAG_ROUNDS = 3;
const NEAR_SAMPLES = 0.005;
const MOST_ROUNDS = 8;
const SETTLED = 1e-4;
/** A sound is taken out only where it is known so well that it goes down by this (dB); and no more than the other is claimed. */
const LEAST_DOWN_DB = 10;
const MOST_DOWN_DB = 25;
/** What may be wrong is taken for more than what is reckoned by this (dB): models err to the good side. */
const SPARE_DB = 3;
/** And the noise of a coder, which shows, for a little more (dB). */
const SPARE_NOISE_DB = 1;

/** How far down a sound is after some subtractions, as far as the mix lets it be known (dB); null where nothing was taken. */
export function downDb(parts: Omit<Subtraction, 'taken' | 'lag'>[]): number | null {
  const summed = (power: 'took' | 'wrong' | 'noise') => parts.reduce((sum, part) => sum + part[power], 0);
  const took = summed('took');
  const left = fromDb(SPARE_DB) ** 2 * summed('wrong') + fromDb(SPARE_NOISE_DB) ** 2 * summed('noise');
  return took > 0 ? min(MOST_DOWN_DB, 10 * log10(took / max(left, 1e-30))) : null;
}

/** Takes sounds out of the sections of a mix, one after another. Its transform is closed by whoever hands in what makes it. */
export class Subtractor {
  private readonly fft: RealFft;
  private room: SectionRoom | null = null;

  constructor(makeFft: MakeFft) {
    this.fft = makeFft(FRAME);
  }

  /**
   * Takes a sound out of a mix that holds it: aligned to a part of a sample with its drift followed; its colour (for each side of the mix, from both
   * sides of the sound) by least squares over the whole, each bin weighted by the inverse power of what else sounds there; and its level over time.
   * The three are found in turn, several times. The reference is worked on where it lies, and is
   * what was taken in the end; it is no shorter than the mix.
   */
  subtract({ mix, reference, margin, lag: first, isCoded }: SubtractionRequest): Subtraction {
    const { fft } = this;
    const samples = mix[0].length;
    const frames = framesOver(samples);
    if (!this.room?.holds(frames)) this.room = new SectionRoom(frames);
    const { ours, theirs } = this.room.spectra(frames);
    mix.forEach((plane, side) => {
      takeApart(fft, plane, ours[side]);
    });
    toMiddleAndSide(reference);
    const powers = ours.map(powerOf);
    const louder = ours[powers[0] >= powers[1] ? 0 : 1];
    const lag = { ...first };
    const align = (part: 0 | 1) => takeApartAligned(fft, reference[part], margin, lag, theirs[part]);
    for (let round = 0; round < LAG_ROUNDS; round++) {
      align(0);
      // How the middle of the sound still lies off in the louder side of the mix.
      const off = leftOver(fft, louder, theirs[0]);
      if (!off) break;
      lag.atStart += off.atStart;
      lag.perSample += off.perSample;
      if (max(abs(off.atStart), abs(off.atStart + off.perSample * samples)) < NEAR_SAMPLES) break;
    }
    align(0);
    align(1);
    const fit = new Fit(this.room, frames, powers[0] + powers[1]);
    for (let round = 0; round < MOST_ROUNDS; round++) if (fit.improve() < SETTLED) break;
    const { took, wrong } = fit.powers();
    // What is hardly told from nothing is left alone.
    if (took <= wrong * 10 ** (LEAST_DOWN_DB / 10))
      return { taken: newStereo(samples), took: 0, wrong: 0, noise: 0, lag };
    fit.keepPredicted();
    const noise = isCoded ? takeOutCoderNoise(ours, theirs, frames) : 0;
    // The reference is not needed any more: what was taken lies where it was.
    const taken: Stereo = [reference[0].subarray(0, samples), reference[1].subarray(0, samples)];
    taken.forEach((plane, side) => {
      putTogether(fft, theirs[side], plane);
    });
    return { taken, took, wrong, noise, lag };
  }
}
