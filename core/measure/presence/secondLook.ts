import type { Peak } from './correlate.ts';
import { THRESHOLDS } from './thresholds.ts';
import { isSeen, SAME_LAG, type WindowEvidence } from './windowEvidence.ts';

const { abs, max, min, sqrt } = Math;

/** Windows that back each other are this near, at most, among those that can be tested; those whose gain is sure, half a minute. */
const NEAR_WINDOWS = 4;
const NEAR_BY_GAIN = 12;
/** Lags of one sound differ by no more (frames at 32 kHz). */
const SAME_PLACE = 2;
/** Two clocks may drift apart by so much from window to window (frames at 32 kHz; 110 ppm). */
const MOST_DRIFT = 9;
/** Gains of one sound lie within this factor (6 dB). */
const ALIKE_GAIN = 2;
/** Windows show something together when there are so many, and so large a share of them agrees in polarity. */
const LEAST_TOGETHER = 6;
const LEAST_AGREEING = 0.85;
/** What a backed window shows is looked for in those around it, so many to each side (a minute). */
const REACH_WINDOWS = 24;

/**
 * The second look: the windows that others back. Tunes of one tempo and instrument make single windows that pass for one another, three in a
 * hundred pairs of 15 s, but not two one after the other that share no sound and agree in lag, polarity and level. A window that stands
 * far above all that chance makes needs no other, unless another such one near it shows a lag of its own: then it is single notes that are
 * alike (a machine that plays them the same each time), and not a recording.
 */
export function backedWindows(windows: WindowEvidence[]): WindowEvidence[] {
  const measured = windows.filter((window) => window.weight > 0 && isBacking(window));
  const sure = measured.filter(isSureAlone);
  return measured.filter((window, at) => {
    if (sure.includes(window) && sure.every((other) => !areNear(window, other) || haveOneLag(window, other)))
      return true;
    const near = measured.slice(max(0, at - NEAR_BY_GAIN), at + NEAR_BY_GAIN + 1);
    return near.some((other) => agree(window, other));
  });
}

/** Tells whether a window that shows the sound all over is sure enough by itself. */
function isSureAlone(window: WindowEvidence): boolean {
  const height = window.peak?.height ?? 0;
  if (!isAllOver(window)) return false;
  const isByGain = height >= THRESHOLDS.beyondChance && window.significance >= THRESHOLDS.byGain;
  return isByGain || min(height, window.significance) >= THRESHOLDS.alone;
}

/**
 * What no window shows by itself may be shown by many together: the correlations of all agree on a lag, and so do the gains there, in polarity
 * and far above their common uncertainty. Returns the windows that show it; none where they do not.
 */
export function windowsTogether(windows: WindowEvidence[], { lag, height }: Peak): WindowEvidence[] {
  const there = windows.filter(
    ({ weight, gainLag }) => weight > 0 && gainLag !== null && abs(gainLag - lag) <= SAME_LAG,
  );
  if (height < THRESHOLDS.file || there.length < LEAST_TOGETHER) return [];
  const weight = there.reduce((sum, window) => sum + window.weight, 0);
  const gain = there.reduce((sum, window) => sum + window.weight * window.gain, 0) / weight;
  const agreeing = there.filter((window) => window.gain * gain > 0);
  const share = agreeing.length / there.length;
  if (abs(gain) * sqrt(weight) < THRESHOLDS.together || share < LEAST_AGREEING) return [];
  return agreeing.filter(({ significance }) => significance >= 1);
}

/**
 * Tells whether the gain of a window stands above its uncertainty, and it shows the sound all over. (Where clocks drift apart, no single lag does;
 * a gain that is far above its uncertainty may stand for it.)
 */
function isBacking(window: WindowEvidence): boolean {
  if (window.peak === null || window.significance < THRESHOLDS.significance) return false;
  return isAllOver(window) || window.significance >= THRESHOLDS.byGain;
}

function isAllOver({ spread }: WindowEvidence): boolean {
  return spread >= THRESHOLDS.spread;
}

/** Tells whether two windows that do not overlap, but follow each other, show the same sound. */
function agree(one: WindowEvidence, other: WindowEvidence): boolean {
  const ratio = one.gain / other.gain;
  const isOneGain = ratio > 1 / ALIKE_GAIN && ratio < ALIKE_GAIN;
  return abs(one.index - other.index) >= 2 && areNear(one, other) && isOneGain && haveOneLag(one, other);
}

function areNear(one: WindowEvidence, other: WindowEvidence): boolean {
  const near = bothSure(one, other) >= THRESHOLDS.byGain ? NEAR_BY_GAIN : NEAR_WINDOWS;
  return abs(one.order - other.order) <= near;
}

/** Tells whether windows have their peaks at one lag, which may drift where the gains of both are sure. */
function haveOneLag(one: WindowEvidence, other: WindowEvidence): boolean {
  if (!one.peak || !other.peak) return false;
  const drift = bothSure(one, other) >= THRESHOLDS.drifting ? MOST_DRIFT * abs(one.index - other.index) : 0;
  return abs(one.peak.lag - other.peak.lag) <= max(SAME_PLACE, drift);
}

/** How sure the gains of both are: that of the less sure one. */
function bothSure(one: WindowEvidence, other: WindowEvidence): number {
  return min(one.significance, other.significance);
}

/** Tells whether a window shows the sound: it is backed itself, or it shows what a backed one near it shows. */
export function isHeard(window: WindowEvidence, backed: WindowEvidence[]): boolean {
  if (backed.includes(window)) return true;
  return backed.some(
    (other) => abs(other.index - window.index) <= REACH_WINDOWS && isSeen(window, other.peak?.lag ?? null),
  );
}
