const { cos, exp, max, min, round, sin } = Math;

/** The rate at which the demo's sounds are made (Hz). */
export const DEMO_RATE = 48_000;
/** How long the demo session lasts (s). */
export const DEMO_SECONDS = 90;

/** A stereo sound that is made by adding to it. */
export interface Canvas {
  left: Float32Array;
  right: Float32Array;
}

export function newCanvas(seconds = DEMO_SECONDS): Canvas {
  const frames = round(seconds * DEMO_RATE);
  return { left: new Float32Array(frames), right: new Float32Array(frames) };
}

/**
 * Adds a mono sound at a time.
 * @param pan −1 (left) to 1 (right), of constant power
 */
export function addAt(canvas: Canvas, sound: Float32Array, startS: number, gain = 1, pan = 0): void {
  const start = round(startS * DEMO_RATE);
  const angle = ((pan + 1) * Math.PI) / 4;
  const left = gain * cos(angle) * Math.SQRT2;
  const right = gain * sin(angle) * Math.SQRT2;
  const end = min(sound.length, canvas.left.length - start);
  for (let i = max(0, -start); i < end; i++) {
    canvas.left[start + i] += sound[i] * left;
    canvas.right[start + i] += sound[i] * right;
  }
}

/** Makes a mono sound from a function of time (s). */
export function soundOf(seconds: number, at: (timeS: number, frame: number) => number): Float32Array {
  const sound = new Float32Array(round(seconds * DEMO_RATE));
  for (let frame = 0; frame < sound.length; frame++) sound[frame] = at(frame / DEMO_RATE, frame);
  return sound;
}

/** An envelope that rises over `attackS` and then falls by 1/e every `decayS`. */
export function struck(timeS: number, attackS: number, decayS: number): number {
  return timeS < attackS ? timeS / attackS : exp(-(timeS - attackS) / decayS);
}

/** Smooths noise with a one-pole low-pass; returns the filter as a function of the next sample. */
export function lowPass(cutoffHz: number): (sample: number) => number {
  const share = 1 - exp((-2 * Math.PI * cutoffHz) / DEMO_RATE);
  let state = 0;
  return (sample) => {
    state += share * (sample - state);
    return state;
  };
}

/** The frequency (Hz) of a note, in semitones above the A of 440 Hz. */
export function noteHz(semitones: number): number {
  return 440 * 2 ** (semitones / 12);
}
