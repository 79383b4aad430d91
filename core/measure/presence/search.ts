import type { RealFft } from '../fft.ts';
import { robustSpread } from './correlate.ts';
import { REFERENCE_FLOOR, TRACK_FLOOR, Whitener } from './whiten.ts';
import { FLAT_WINDOW_FRAMES, FRAMES_PER_FLAT_FRAME, SILENCE_RMS, WINDOW_FRAMES } from './windows.ts';

const { abs, max, min, round, sqrt } = Math;

/** Long correlations: 2^20 points hold a window and 27 s of lags. */
const SIZE = 1 << 20;
const STEP = SIZE - FLAT_WINDOW_FRAMES;
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
  const whitener = new Whitener(makeFft);
  try {
    const segments = segmentsOf(fft, whitener, track);
    let best = { lag: 0, height: 0 };
    for (const start of probeStarts(reference)) {
      const probe = probeSpectrum(fft, whitener, reference.subarray(start, start + WINDOW_FRAMES));
      segments.forEach((segment, index) => {
        const found = strongest(fft, probe, segment.spectrum, segment.lags);
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

/** A stretch of a track as it is searched: its spectrum, and at how many lags. */
interface Segment {
  spectrum: Float32Array;
  lags: number;
}

function segmentsOf(fft: RealFft, whitener: Whitener, track: Float32Array): Segment[] {
  const flat = new Float32Array(Math.ceil(track.length / FRAMES_PER_FLAT_FRAME));
  whitener.whiten(track, flat, TRACK_FLOOR);
  const segments: Segment[] = [];
  for (let start = 0; start < flat.length; start += STEP) {
    const spectrum = phasesOf(fft, flat.subarray(start, start + SIZE));
    segments.push({ spectrum, lags: lagsOf(flat.length - start, start === 0) });
  }
  return segments;
}

/**
 * At how many lags a segment is searched: where a window lies in it whole, since half a window stands out by chance. A
 * track that is hardly longer than a window is searched all along.
 */
function lagsOf(left: number, isFirst: boolean): number {
  const whole = min(STEP, left - FLAT_WINDOW_FRAMES);
  return isFirst ? max(whole, min(left, FLAT_WINDOW_FRAMES)) : max(0, whole);
}

function probeSpectrum(fft: RealFft, whitener: Whitener, window: Float32Array): Float32Array {
  const flat = new Float32Array(FLAT_WINDOW_FRAMES);
  whitener.whiten(window, flat, REFERENCE_FLOOR);
  return phasesOf(fft, flat);
}

function phasesOf(fft: RealFft, samples: Float32Array): Float32Array {
  const padded = new Float32Array(SIZE);
  padded.set(samples);
  const spectrum = new Float32Array(SIZE);
  fft.forward(padded, spectrum);
  return spectrum;
}

function strongest(
  fft: RealFft,
  probe: Float32Array,
  segment: Float32Array,
  count: number,
): { at: number; height: number } {
  const cross = new Float32Array(SIZE);
  for (let i = 2; i < SIZE; i += 2) {
    cross[i] = probe[i] * segment[i] + probe[i + 1] * segment[i + 1];
    cross[i + 1] = probe[i] * segment[i + 1] - probe[i + 1] * segment[i];
  }
  const lags = new Float32Array(SIZE);
  fft.inverse(cross, lags);
  if (count === 0) return { at: 0, height: 0 };
  const usable = lags.subarray(0, count);
  const spread = robustSpread(usable);
  let at = 0;
  for (let i = 0; i < count; i++) if (abs(usable[i]) > abs(usable[at])) at = i;
  return { at, height: spread > 0 ? abs(usable[at]) / spread : 0 };
}
