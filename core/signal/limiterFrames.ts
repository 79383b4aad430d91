import { TAPS } from './oversampling.ts';

/** A limiter's gain goes down over this many frames (2 ms) before a peak. */
export const LIMITER_RAMP_FRAMES = 96;
/** A limiter is late by its ramp, and by the points between samples that it finds a peak from. */
export const LIMITER_FRAMES = LIMITER_RAMP_FRAMES + TAPS;
