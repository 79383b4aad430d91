import type { RealFft } from '../measure/fft.ts';
import { robustSpread, vertexOffset } from '../measure/presence/correlate.ts';
import { median } from '../median.ts';
import { type LinePoint, medianLine } from '../medianLine.ts';
import { BINS, FRAME, HOP, type LagLine, ROW } from './spectra.ts';

const { abs } = Math;

/** The lag is looked at in blocks of so many frames (2 s), over so many samples to each side. */
const BLOCK = 94;
const MOST_OFF = 700;
/** A block tells its lag where the peak stands so many spreads high. */
const STANDS = 7;
/** From so many blocks on they tell a drift. */
const LEAST_BLOCKS = 4;

/**
 * Finds how an aligned sound still lies off in a mix: the peaks of their correlation block by block, each bin weighted by the inverse of what else
 * sounds there, and the line through them.
 * @returns what is to be added to its lag; null where too little of it stands out
 */
export function leftOver(fft: RealFft, mix: Float32Array, sound: Float32Array): LagLine | null {
  const frames = mix.length / ROW;
  const known: LinePoint[] = [];
  for (let from = 0; from + BLOCK / 2 < frames; from += BLOCK) {
    const to = Math.min(frames, from + BLOCK);
    const value = lagOf(fft, mix, sound, from, to);
    if (value !== null) known.push({ at: ((from + to) / 2) * HOP, value });
  }
  if (known.length === 0) return null;
  if (known.length < LEAST_BLOCKS) return { atStart: median(known.map(({ value }) => value)), perSample: 0 };
  const { slope, atZero } = medianLine(known);
  return { atStart: atZero, perSample: slope };
}

function lagOf(
  fft: RealFft,
  mix: Float32Array,
  sound: Float32Array,
  from: number,
  to: number,
): number | null {
  const spectrum = new Float32Array(FRAME);
  const response = new Float32Array(FRAME);
  const ours = new Float64Array(BINS);
  const theirs = new Float64Array(BINS);
  for (let frame = from; frame < to; frame++)
    for (let bin = 1, at = frame * ROW + 2; bin < BINS; bin++, at += 2) {
      const re = mix[at];
      const im = mix[at + 1];
      const soundRe = sound[at];
      const soundIm = sound[at + 1];
      spectrum[2 * bin] += re * soundRe + im * soundIm;
      spectrum[2 * bin + 1] += im * soundRe - re * soundIm;
      ours[bin] += re * re + im * im;
      theirs[bin] += soundRe * soundRe + soundIm * soundIm;
    }
  for (let bin = 1; bin < BINS; bin++) {
    const weight = Math.sqrt(ours[bin] * theirs[bin]);
    spectrum[2 * bin] = weight > 0 ? spectrum[2 * bin] / weight : 0;
    spectrum[2 * bin + 1] = weight > 0 ? spectrum[2 * bin + 1] / weight : 0;
  }
  fft.inverse(spectrum, response);
  const near = Float32Array.from(
    { length: 2 * MOST_OFF + 1 },
    (_, i) => response[(i - MOST_OFF + FRAME) % FRAME],
  );
  let best = 0;
  for (let i = 0; i < near.length; i++) if (abs(near[i]) > abs(near[best])) best = i;
  if (abs(near[best]) < STANDS * robustSpread(near)) return null;
  return best - MOST_OFF + vertexOffset(near, best);
}
