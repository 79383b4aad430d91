import type { Peak } from './correlate.ts';
import { THRESHOLDS } from './thresholds.ts';
import { isSeen, SAME_LAG, type WindowEvidence } from './windowEvidence.ts';

const { abs, max, min, sqrt } = Math;

/** Windows that back each other are this near, at most, among those that can be tested. */
const NEAR_WINDOWS = 4;
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
 * far above all that chance makes needs no other.
 */
export function backedWindows(windows: WindowEvidence[]): WindowEvidence[] {
  const measured = windows.filter((window) => window.weight > 0 && isBacking(window));
  return measured.filter((window, at) => {
    const height = window.peak?.height ?? 0;
    if (min(height, window.significance) >= THRESHOLDS.alone) return true;
    if (height >= THRESHOLDS.window && window.significance >= THRESHOLDS.aloneByGain) return true;
    const near = measured.slice(max(0, at - NEAR_WINDOWS), at + NEAR_WINDOWS + 1);
    return near.some((other) => agree(window, other));
  });
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

/** Tells whether a window shows the sound all over, and its gain stands above its uncertainty. */
function isBacking({ peak, spread, significance }: WindowEvidence): boolean {
  return peak !== null && spread >= THRESHOLDS.spread && significance >= THRESHOLDS.significance;
}

/** Tells whether two windows that do not overlap, but follow each other, show the same sound. */
function agree(one: WindowEvidence, other: WindowEvidence): boolean {
  const apart = abs(one.index - other.index);
  if (apart < 2 || abs(one.order - other.order) > NEAR_WINDOWS || !one.peak || !other.peak) return false;
  const ratio = one.gain / other.gain;
  const areSure = min(one.significance, other.significance) >= THRESHOLDS.drifting;
  const mayDiffer = areSure ? MOST_DRIFT * apart : SAME_PLACE;
  return abs(one.peak.lag - other.peak.lag) <= mayDiffer && ratio > 1 / ALIKE_GAIN && ratio < ALIKE_GAIN;
}

/** Tells whether a window shows the sound: it is backed itself, or it shows what a backed one near it shows. */
export function isHeard(window: WindowEvidence, backed: WindowEvidence[]): boolean {
  if (backed.includes(window)) return true;
  return backed.some(
    (other) => abs(other.index - window.index) <= REACH_WINDOWS && isSeen(window, other.peak?.lag ?? null),
  );
}
