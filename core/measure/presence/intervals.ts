import { median } from '../../median.ts';
import { medianLine } from '../../medianLine.ts';
import { SAME_LAG, type WindowEvidence } from './windowEvidence.ts';
import { FLAT_RATE, HOP_FRAMES, RATE, STRETCH_S, WINDOW_FRAMES } from './windows.ts';

const { abs, max, min } = Math;

/** A stretch of time in which the reference is heard in the track. */
export interface PresenceInterval {
  startS: number;
  endS: number;
  /** Gain of the reference as found (dB). */
  levelDb: number;
  /** How much later the track carries the sound than the reference does (ms). */
  offsetMs: number;
}

/** The lag in the middle of those of some windows (frames at 32 kHz). */
export function medianLag(windows: WindowEvidence[]): number {
  return median(windows.map((window) => window.peak?.lag ?? 0));
}

/** How the lags of some windows run: from so many frames at the first window of all, by so many from window to window (32 kHz). */
export interface LagTrend {
  atStart: number;
  perWindow: number;
}

/** So many windows, over so many, tell how lags run. */
const LEAST_FOR_TREND = 8;
const LEAST_SPAN = 24;

/** Returns how the lags of windows run; null where there are too few to tell. */
export function lagTrend(windows: WindowEvidence[]): LagTrend | null {
  const known = windows.flatMap(({ peak, index }) => (peak ? [{ at: index, value: peak.lag }] : []));
  const span = max(...known.map(({ at }) => at)) - min(...known.map(({ at }) => at));
  if (known.length < LEAST_FOR_TREND || span < LEAST_SPAN) return null;
  const { slope, atZero } = medianLine(known);
  return { perWindow: slope, atStart: atZero };
}

/** The common level of some windows (dB); null where none was measured. */
export function levelOf(windows: WindowEvidence[]): number | null {
  const weight = windows.reduce((sum, window) => sum + window.weight, 0);
  if (weight === 0) return null;
  const gain = windows.reduce((sum, window) => sum + window.weight * abs(window.gain), 0) / weight;
  return gain > 0 && Number.isFinite(gain) ? 20 * Math.log10(gain) : null;
}

/** Joins windows that follow each other at one lag. */
export function intervalsOf(heard: WindowEvidence[], lengthS: number): PresenceInterval[] {
  const groups: WindowEvidence[][] = [];
  for (const window of heard) {
    const last = groups.at(-1)?.at(-1);
    const joins =
      last &&
      window.index - last.index <= 2 &&
      abs((window.peak?.lag ?? 0) - (last.peak?.lag ?? 0)) <= SAME_LAG;
    if (joins) groups.at(-1)?.push(window);
    else groups.push([window]);
  }
  return groups.flatMap((group) => {
    const levelDb = levelOf(group);
    if (levelDb === null) return [];
    return [
      {
        startS: edgeOf(group[0], 'first'),
        endS: min(lengthS, edgeOf(group[group.length - 1], 'last')),
        levelDb,
        offsetMs: (medianLag(group) / FLAT_RATE) * 1000,
      },
    ];
  });
}

/** The time (s) of the first or the last stretch of a window that shows the sound clearly. */
function edgeOf({ index, firstClear, lastClear }: WindowEvidence, edge: 'first' | 'last'): number {
  const startS = (index * HOP_FRAMES) / RATE;
  const at = edge === 'first' ? firstClear : lastClear;
  if (at < 0) return edge === 'first' ? startS : startS + WINDOW_FRAMES / RATE;
  return startS + (edge === 'first' ? at : at + 1) * STRETCH_S;
}
