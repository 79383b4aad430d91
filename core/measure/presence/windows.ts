/** The sample rate at which presence is measured (Hz). */
export const RATE = 48_000;
/** A window is 5 s long, and the next one starts 2.5 s later. */
export const WINDOW_FRAMES = 5 * RATE;
export const HOP_FRAMES = WINDOW_FRAMES / 2;
/** Flattened sounds end at 16 kHz, so that they are kept, and correlated, at this rate (Hz). */
export const FLAT_RATE = 32_000;
export const FLAT_WINDOW_FRAMES = 5 * FLAT_RATE;
/** A frame of a flattened sound is this many of the sound itself. */
export const FRAMES_PER_FLAT_FRAME = RATE / FLAT_RATE;
/** The lag is searched over ±0.5 s (frames of the flattened sounds). */
export const MAX_LAG = FLAT_RATE / 2;
/** Evidence is judged in stretches of a quarter of a second: see `evidence.ts`. */
export const STRETCH_S = 0.25;
export const STRETCHES = 5 / STRETCH_S;
/** Zero-padded transform length: long enough that no lag within ±0.5 s wraps; 2^12·3^2·5. */
export const TRANSFORM_FRAMES = 184_320;
/** The band that is correlated (Hz). */
export const LOW_HZ = 80;
export const HIGH_HZ = 16_000;
/** A reference below this RMS (about −75 dBFS) in a window is silent: the window cannot be tested. */
export const SILENCE_RMS = 1.8e-4;
