import type { Stereo } from '../audio/planes.ts';
import type { RealFft } from '../measure/fft.ts';

const { cos, floor, max, min, PI, round, sin } = Math;

/** Sounds are taken apart in frames of so many samples (43 ms at 48 kHz), each half a frame after the one before. */
export const FRAME = 2048;
export const HOP = FRAME / 2;
/** Of the bins of a frame, the first (which packs two ends of the spectrum) is left out. */
export const BINS = FRAME / 2;
/** What a frame's spectrum takes: real and imaginary parts in turn. */
export const ROW = 2 * BINS;

/** Both for taking apart and for putting together: their squares add up to one over frames that overlap by half. */
const WINDOW = Float32Array.from({ length: FRAME }, (_, i) => sin((PI * (i + 0.5)) / FRAME));
/** The transforms there and back multiply by their length. */
const SCALED_WINDOW = WINDOW.map((value) => value / FRAME);

/** How a sound lies in another one: so many samples later at its start, and so many more with every sample. */
export interface LagLine {
  atStart: number;
  perSample: number;
}

/** How many frames it takes to cover so many samples: the first begins half a frame before them. */
export function framesOver(samples: number): number {
  return floor((samples + HOP - 1) / HOP) + 1;
}

/** Takes a plane apart into spectra, frame after frame: as many as there is room for. */
export function takeApart(fft: RealFft, plane: Float32Array, spectra: Float32Array): void {
  const frames = spectra.length / ROW;
  const samples = new Float32Array(FRAME);
  for (let frame = 0; frame < frames; frame++) {
    cut(plane, (frame - 1) * HOP, samples);
    fft.forward(samples, spectra.subarray(frame * ROW, (frame + 1) * ROW));
  }
}

/**
 * Takes a plane apart as it lies in another one, frame by frame of that: whole samples of the lag by where it is cut, the rest by turning phases.
 * @param margin which sample of the plane lies at the start of the other one without a lag
 */
export function takeApartAligned(
  fft: RealFft,
  plane: Float32Array,
  margin: number,
  lag: LagLine,
  spectra: Float32Array,
): void {
  const frames = spectra.length / ROW;
  const samples = new Float32Array(FRAME);
  for (let frame = 0; frame < frames; frame++) {
    const late = lag.atStart + lag.perSample * frame * HOP;
    const whole = round(late);
    cut(plane, (frame - 1) * HOP + margin - whole, samples);
    const spectrum = spectra.subarray(frame * ROW, (frame + 1) * ROW);
    fft.forward(samples, spectrum);
    turn(spectrum, late - whole);
  }
}

/** Puts spectra together to a plane again. */
export function putTogether(fft: RealFft, spectra: Float32Array, plane: Float32Array): void {
  const samples = plane.length;
  plane.fill(0);
  const frames = framesOver(samples);
  const part = new Float32Array(FRAME);
  for (let frame = 0; frame < frames; frame++) {
    fft.inverse(spectra.subarray(frame * ROW, (frame + 1) * ROW), part);
    const from = (frame - 1) * HOP;
    const end = min(FRAME, samples - from);
    for (let i = max(0, -from); i < end; i++) plane[from + i] += part[i] * SCALED_WINDOW[i];
  }
}

/** Makes the middle of two sides, and half of what they differ by, of them where they lie: sides that are alike make the second nearly nothing. */
export function toMiddleAndSide([left, right]: Stereo): void {
  for (let i = 0; i < left.length; i++) {
    const one = left[i];
    const other = right[i];
    left[i] = (one + other) / 2;
    right[i] = (one - other) / 2;
  }
}

/** The power of some spectra. */
export function powerOf(spectra: Float32Array): number {
  let power = 0;
  for (let i = 0; i < spectra.length; i++) power += spectra[i] * spectra[i];
  return power;
}

function cut(plane: Float32Array, from: number, into: Float32Array): void {
  const first = min(FRAME, max(0, -from));
  const end = max(first, min(FRAME, plane.length - from));
  into.fill(0, 0, first);
  into.fill(0, end);
  for (let i = first; i < end; i++) into[i] = plane[from + i] * WINDOW[i];
}

/** Delays a spectrum by a part of a sample: the turn of each bin comes from that of the one before. */
function turn(spectrum: Float32Array, late: number): void {
  if (late === 0) return;
  const angle = (-2 * PI * late) / FRAME;
  const [byRe, byIm] = [cos(angle), sin(angle)];
  let [turnRe, turnIm] = [byRe, byIm];
  for (let bin = 1; bin < BINS; bin++) {
    const re = spectrum[2 * bin];
    const im = spectrum[2 * bin + 1];
    spectrum[2 * bin] = re * turnRe - im * turnIm;
    spectrum[2 * bin + 1] = re * turnIm + im * turnRe;
    const next = turnRe * byRe - turnIm * byIm;
    turnIm = turnRe * byIm + turnIm * byRe;
    turnRe = next;
  }
}
