/** The sample rate at which presence is measured (Hz). */
export const RATE = 48_000;
/** A window is 5 s long, and the next one starts 2.5 s later. */
export const WINDOW_FRAMES = 5 * RATE;
export const HOP_FRAMES = WINDOW_FRAMES / 2;
/** The lag is searched over ±0.5 s. */
export const MAX_LAG = RATE / 2;
/** Evidence is judged in stretches of a quarter of a second: see `evidence.ts`. */
export const STRETCH_FRAMES = RATE / 4;
export const STRETCHES = WINDOW_FRAMES / STRETCH_FRAMES;
/** Zero-padded transform length: long enough that no lag within ±0.5 s wraps; 2^11·3^3·5. */
export const TRANSFORM_FRAMES = 276_480;
/** The band that is correlated (Hz). */
export const LOW_HZ = 80;
export const HIGH_HZ = 16_000;
/** A reference below this RMS (about −75 dBFS) in a window is silent: the window cannot be tested. */
export const SILENCE_RMS = 1.8e-4;
