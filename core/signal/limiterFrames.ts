import { PEAK_FRAMES } from './peaks.ts';

/** A limiter's gain goes down over this many frames (1.5 ms) before a peak. */
export const LIMITER_RAMP_FRAMES = 72;
/** A limiter is late by its ramp, and by the samples after a peak that it is found from. */
export const LIMITER_FRAMES = LIMITER_RAMP_FRAMES + PEAK_FRAMES;
