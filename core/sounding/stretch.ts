import type { Kernels } from '../kernels/kernels.ts';
import { REPETITIONS } from './code.ts';
import { addressOf, around, PERIOD } from './periods.ts';

const { abs, floor, max, min, round } = Math;

/** Stretches that share less than this of the shorter one are two. */
const SHARED_AT_MOST = 0.25;

/** When a code sounds, where its period begins at a lag (frames from the start of the recording). */
export interface Stretch {
  lag: number;
  from: number;
  to: number;
  /** How loud it was where this was read. */
  gain: number;
  /** How many times the greatest deviation of a period, within it or outside, it is loud. */
  sureness: number;
}

/**
 * Tells when a code sounds, of which one period begins at a lag. A code that is played from its start begins with a period.
 * @param period one period of the code, later by the fraction of the lag; it and the samples in the memory of the loops
 */
export function stretchAt(
  { dot }: Kernels['loops'],
  samples: Float32Array,
  period: Float32Array,
  lag: number,
): Stretch {
  const whole = dot(period.byteOffset, period.byteOffset, PERIOD);
  const first = floor(lag) - PERIOD;
  const parts: { like: number; share: number }[] = [];
  for (let at = first; at < samples.length; at += PERIOD)
    parts.push(likeness(dot, samples, period, at, whole));
  const sum = parts.reduce((total, { like }) => total + like, 0);
  const sign = sum < 0 ? -1 : 1;
  const known = parts.filter(({ share }) => share > 0.5).map(({ like, share }) => (sign * like) / share);
  const usual = usualOf(known);
  const over = (least: number) => parts.map(({ like, share }) => sign * like - least * usual * share);
  let { from, to } = strongestRun(over(0.5), parts.length);
  // It is played for so long, unless somebody lets it play again and again; then every period is as loud.
  if (
    to - from > REPETITIONS &&
    over(0.75)
      .slice(from + 1, to - 1)
      .some((value) => value < 0)
  )
    ({ from, to } = strongestRun(over(0.5), REPETITIONS));
  const on = parts.slice(from, to);
  const mean =
    on.reduce((total, { like }) => total + sign * like, 0) /
    max(
      0.1,
      on.reduce((total, { share }) => total + share, 0),
    );
  const off = parts.map(({ like, share }, i) => sign * like - (i >= from && i < to ? mean * share : 0));
  const outside = off.filter((_, i) => i < from || i >= to);
  const scatter = max(0, ...outside.map(abs), min(max(0, ...off.map(abs)), unsteadiness(on)));
  return {
    lag,
    from: max(0, first + from * PERIOD),
    to: min(samples.length, first + to * PERIOD),
    gain: mean,
    sureness: mean / max(scatter, 1e-12),
  };
}

/** How loud a period of a code usually is, of some that sound and others that do not: the middle of those that are half as loud as the loudest. */
function usualOf(likes: number[]): number {
  const loudest = max(0, ...likes);
  const loud = likes.filter((like) => like >= loudest / 2).sort((a, b) => a - b);
  return loud[floor(loud.length / 2)] ?? 0;
}

/** How much a period differs at most from the middle between its neighbours: a level that rises or falls steadily is no scatter. */
function unsteadiness(parts: { like: number; share: number }[]): number {
  const levels = parts.filter(({ share }) => share > 0.5).map(({ like, share }) => like / share);
  if (levels.length < 3) return Number.POSITIVE_INFINITY;
  return max(
    ...levels.map((level, i) => {
      const before = levels[i - 1] ?? 2 * levels[1] - levels[2];
      const after = levels[i + 1] ?? 2 * levels[i - 1] - levels[i - 2];
      return abs(level - (before + after) / 2);
    }),
  );
}

/** Tells whether a code sounds at two times that have next to nothing in common: it was played again. */
export function areApart(a: Stretch, b: Stretch): boolean {
  const shared = min(a.to, b.to) - max(a.from, b.from);
  return shared < SHARED_AT_MOST * min(a.to - a.from, b.to - b.from);
}

/** From which frame of a channel to which a code sounds that arrives there at a lag. */
export function spanOf(
  { lag: own, from, to }: Stretch,
  lag: number,
  length: number,
): { from: number; to: number } {
  const shift = around(lag - own);
  return { from: max(0, round(from + shift)), to: min(length, round(to + shift)) };
}

/**
 * How like a period the samples are, where it begins at a frame: its least-squares gain times the share of the period's power for which there are samples.
 * @param whole that power
 */
function likeness(
  dot: Kernels['loops']['dot'],
  samples: Float32Array,
  period: Float32Array,
  begins: number,
  whole: number,
): { like: number; share: number } {
  const from = max(0, begins);
  const count = min(samples.length, begins + PERIOD) - from;
  const at = addressOf(period, from - begins);
  return {
    like: dot(addressOf(samples, from), at, count) / whole,
    share: count === PERIOD ? 1 : dot(at, at, count) / whole,
  };
}

/** The stretch of values with the greatest sum, of so many at most. */
function strongestRun(values: number[], most: number): { from: number; to: number } {
  let best = { sum: 0, from: 0, to: 0 };
  for (let from = 0; from < values.length; from++) {
    let sum = 0;
    for (let to = from + 1; to <= min(values.length, from + most); to++) {
      sum += values[to - 1];
      if (sum > best.sum) best = { sum, from, to };
    }
  }
  return best;
}
