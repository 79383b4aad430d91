import { fromDb } from '../audio/decibel.ts';
import type { Stereo } from '../audio/planes.ts';
import type { MakeFft } from '../measure/fft.ts';
import { takeOutCoderNoise } from './coderNoise.ts';
import { Fit, powerOf } from './fit.ts';
import { leftOver } from './follow.ts';
import {
  alignedSpectra,
  FRAME,
  framesOver,
  type LagLine,
  middleAndSide,
  planeOf,
  spectraOf,
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

/** Times and levels are found anew so often, each time weighted by what was left; times no more where they move by less than this (samples). */
const LAG_ROUNDS = 3;
const NEAR_SAMPLES = 0.005;
const ROUNDS = 3;
/** A sound is taken out only where it is known so well that it goes down by this (dB); and no more than the other is claimed. */
const LEAST_DOWN_DB = 10;
const MOST_DOWN_DB = 25;
/** What may be wrong is taken for more than what is reckoned by this (dB): models err to the good side. */
const SPARE_DB = 3;

/** How far down a sound is after some subtractions, as far as the mix lets it be known (dB); null where nothing was taken. */
export function downDb(parts: Omit<Subtraction, 'taken' | 'lag'>[]): number | null {
  const summed = (power: 'took' | 'wrong' | 'noise') => parts.reduce((sum, part) => sum + part[power], 0);
  const took = summed('took');
  const left = fromDb(SPARE_DB) ** 2 * summed('wrong') + summed('noise');
  return took > 0 ? min(MOST_DOWN_DB, 10 * log10(took / max(left, 1e-30))) : null;
}

/**
 * Takes a sound out of a mix that holds it: aligned to a part of a sample with its drift followed; its colour (for each side of the mix, from both
 * sides of the sound) by least squares over the whole, each bin weighted by the inverse power of what else sounds there; and its level over time.
 * The three are found in turn, several times.
 */
export function subtract(
  makeFft: MakeFft,
  { mix, reference, margin, lag: first, isCoded }: SubtractionRequest,
): Subtraction {
  const fft = makeFft(FRAME);
  try {
    const samples = mix[0].length;
    const frames = framesOver(samples);
    const ours = mix.map((plane) => spectraOf(fft, plane));
    const powers = ours.map(powerOf);
    const louder = ours[powers[0] >= powers[1] ? 0 : 1];
    const parts = middleAndSide(reference);
    const lag = { ...first };
    const aligned = (plane: Float32Array) => alignedSpectra(fft, plane, margin, frames, lag);
    for (let round = 0; round < LAG_ROUNDS; round++) {
      // How the middle of the sound still lies off in the louder side of the mix.
      const off = leftOver(fft, louder, aligned(parts[0]));
      if (!off) break;
      lag.atStart += off.atStart;
      lag.perSample += off.perSample;
      if (max(abs(off.atStart), abs(off.atStart + off.perSample * samples)) < NEAR_SAMPLES) break;
    }
    const fit = new Fit(ours, parts.map(aligned), frames);
    for (let round = 0; round < ROUNDS; round++) fit.improve();
    const { took, wrong } = fit.powers();
    // What is hardly told from nothing is left alone.
    if (took <= wrong * 10 ** (LEAST_DOWN_DB / 10))
      return {
        taken: [new Float32Array(samples), new Float32Array(samples)],
        took: 0,
        wrong: 0,
        noise: 0,
        lag,
      };
    const spectra = fit.predicted();
    const noise = isCoded ? takeOutCoderNoise(ours, spectra, frames) : 0;
    const [left, right] = spectra.map((side) => planeOf(fft, side, samples));
    return { taken: [left, right], took, wrong, noise, lag };
  } finally {
    fft.close();
  }
}
