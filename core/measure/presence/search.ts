import { Kernels } from '../../kernels/kernels.ts';
import type { RealFft } from '../fft.ts';
import { robustSpread } from './correlate.ts';
import { REFERENCE_FLOOR, TRACK_FLOOR, Whitener } from './whiten.ts';
import { FLAT_WINDOW_FRAMES, FRAMES_PER_FLAT_FRAME, SILENCE_RMS, WINDOW_FRAMES } from './windows.ts';

const { abs, max, min, round, sqrt } = Math;

/** Long correlations: 2^20 points hold a window and 27 s of lags. */
const SIZE = 1 << 20;
const STEP = SIZE - FLAT_WINDOW_FRAMES;
/** What stands before and after a piece of the track when it is flattened (frames at 32 kHz). */
const MARGIN = 640;
/** Beside the spectra of the track, so many arrays of that size have room. */
const ROOM = 8;
/** As many windows of the reference are looked for, spread over its length. */
const PROBES = 12;

/**
 * Finds by how many frames a track lags a reference, at any offset: windows of the reference are correlated
 * (phase transform) with the whole track, and the lag with the strongest support wins.
 * @param reference, track mono at 48 kHz
 * @returns the lag in frames of the track, 0 when nothing stands out
 */
export function findLag(
  makeFft: (size: number) => RealFft,
  reference: Float32Array,
  track: Float32Array,
): number {
  const fft = makeFft(SIZE);
  const pieces = Math.ceil(track.length / FRAMES_PER_FLAT_FRAME / STEP) + 1;
  const kernels = new Kernels((pieces + ROOM) * SIZE);
  const whitener = new Whitener(makeFft, kernels);
  const tools: Tools = { fft, kernels, whitener, cross: kernels.floats(SIZE), lags: new Float32Array(SIZE) };
  try {
    const segments = segmentsOf(tools, track);
    const window = kernels.floats(WINDOW_FRAMES);
    const flat = kernels.floats(FLAT_WINDOW_FRAMES);
    const probe = kernels.floats(SIZE);
    let best = { lag: 0, height: 0 };
    for (const start of probeStarts(reference)) {
      fillFrom(window, reference, start);
      whitener.whiten(window, flat, REFERENCE_FLOOR);
      spectrumOf(fft, flat, probe);
      segments.forEach((segment, index) => {
        const found = strongest(tools, probe, segment);
        if (found.height > best.height)
          best = { lag: (index * STEP + found.at) * FRAMES_PER_FLAT_FRAME - start, height: found.height };
      });
    }
    return best.height > 7 ? round(best.lag) : 0;
  } finally {
    fft.close();
  }
}

function probeStarts(reference: Float32Array): number[] {
  const room = max(0, reference.length - WINDOW_FRAMES);
  const starts = Array.from({ length: PROBES }, (_, index) => round((room * index) / (PROBES - 1)));
  return [...new Set(starts)].filter((start) => {
    let power = 0;
    for (let i = start; i < min(reference.length, start + WINDOW_FRAMES); i += 7) power += reference[i] ** 2;
    return sqrt((power * 7) / WINDOW_FRAMES) > SILENCE_RMS;
  });
}

/** What every search works with. */
interface Tools {
  fft: RealFft;
  kernels: Kernels;
  whitener: Whitener;
  cross: Float32Array;
  lags: Float32Array;
}

/** A stretch of a track as it is searched: its spectrum, and at how many lags. */
interface Segment {
  spectrum: Float32Array;
  lags: number;
}

function segmentsOf({ fft, kernels, whitener }: Tools, track: Float32Array): Segment[] {
  const flatLength = Math.ceil(track.length / FRAMES_PER_FLAT_FRAME);
  const piece = kernels.floats((SIZE + 2 * MARGIN) * FRAMES_PER_FLAT_FRAME);
  const flat = kernels.floats(SIZE + 2 * MARGIN);
  const segments: Segment[] = [];
  for (let start = 0; start < flatLength; start += STEP) {
    fillFrom(piece, track, (start - MARGIN) * FRAMES_PER_FLAT_FRAME);
    whitener.whiten(piece, flat, TRACK_FLOOR);
    const spectrum = kernels.floats(SIZE);
    spectrumOf(fft, flat.subarray(MARGIN, MARGIN + SIZE), spectrum);
    segments.push({ spectrum, lags: lagsOf(flatLength - start, start === 0) });
  }
  return segments;
}

/** Fills a piece with the samples from `start` on, and with silence where there are none. */
function fillFrom(piece: Float32Array, samples: Float32Array, start: number): void {
  piece.fill(0);
  piece.set(samples.subarray(max(0, start), max(0, start + piece.length)), max(0, -start));
}

function spectrumOf(fft: RealFft, samples: Float32Array, spectrum: Float32Array): void {
  spectrum.fill(0);
  spectrum.set(samples);
  fft.forward(spectrum, spectrum);
}

/**
 * At how many lags a segment is searched: where a window lies in it whole, since half a window stands out by chance. A
 * track that is hardly longer than a window is searched all along.
 */
function lagsOf(left: number, isFirst: boolean): number {
  const whole = min(STEP, left - FLAT_WINDOW_FRAMES);
  return isFirst ? max(whole, min(left, FLAT_WINDOW_FRAMES)) : max(0, whole);
}

function strongest(
  { fft, kernels, cross, lags }: Tools,
  probe: Float32Array,
  { spectrum, lags: count }: Segment,
): { at: number; height: number } {
  if (count === 0) return { at: 0, height: 0 };
  kernels.loops.crossSpectrum(probe.byteOffset, spectrum.byteOffset, cross.byteOffset, SIZE);
  cross.fill(0, 0, 2);
  fft.inverse(cross, lags);
  const usable = lags.subarray(0, count);
  const spread = robustSpread(usable);
  let at = 0;
  for (let i = 0; i < count; i++) if (abs(usable[i]) > abs(usable[at])) at = i;
  return { at, height: spread > 0 ? abs(usable[at]) / spread : 0 };
}
