import { REPETITIONS } from './code.ts';
import { around, PERIOD } from './periods.ts';

const { abs, floor, max, min, round } = Math;

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
 * @param period one period of the code, later by the fraction of the lag
 */
export function stretchAt(samples: Float32Array, period: Float32Array, lag: number): Stretch {
  const first = floor(lag) - PERIOD;
  const parts: { like: number; share: number }[] = [];
  for (let at = first; at < samples.length; at += PERIOD)
    parts.push(likeness(samples, period, max(0, at) - first, first, min(samples.length, at + PERIOD)));
  const sum = parts.reduce((total, { like }) => total + like, 0);
  const sign = sum < 0 ? -1 : 1;
  const whole = parts.filter(({ share }) => share > 0.5).map(({ like, share }) => (sign * like) / share);
  // Of ten periods in twenty, a quarter are surely among those that sound.
  const usual = whole.sort((a, b) => b - a)[floor(whole.length / 4)] ?? 0;
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
  const scatter = max(...off.map(abs));
  return {
    lag,
    from: max(0, first + from * PERIOD),
    to: min(samples.length, first + to * PERIOD),
    gain: mean,
    sureness: mean / max(scatter, 1e-12),
  };
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
 * How like a period a stretch of samples is: its least-squares gain times the share of a period's power that lies in the stretch.
 * @param offset the frame at which the stretch begins, counted from `first`, where a period begins
 */
function likeness(
  samples: Float32Array,
  period: Float32Array,
  offset: number,
  first: number,
  to: number,
): { like: number; share: number } {
  let like = 0;
  let within = 0;
  let at = offset % PERIOD;
  for (let frame = first + offset; frame < to; frame++) {
    like += samples[frame] * period[at];
    within += period[at] * period[at];
    at += 1;
    if (at === PERIOD) at = 0;
  }
  const whole = powerOf(period);
  return { like: like / whole, share: within / whole };
}

function powerOf(period: Float32Array): number {
  let power = 0;
  for (let i = 0; i < PERIOD; i++) power += period[i] * period[i];
  return power;
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
