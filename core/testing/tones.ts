import { seededRandom } from '../audio/random.ts';

const { round, sin, sqrt } = Math;

/** A sine of the given frequency (Hz), peak amplitude (dBFS), length (s) and phase (degrees), for tests. */
export function sine(
  hz: number,
  dbfs: number,
  seconds: number,
  sampleRate = 48_000,
  phaseDegrees = 0,
): Float32Array {
  const amplitude = 10 ** (dbfs / 20);
  const phase = (phaseDegrees * Math.PI) / 180;
  const turn = 2 * Math.PI * hz;
  const samples = new Float32Array(round(seconds * sampleRate));
  for (let i = 0; i < samples.length; i++) samples[i] = amplitude * sin((turn * i) / sampleRate + phase);
  return samples;
}

/** Sounds one after the other. */
export function joined(...parts: Float32Array[]): Float32Array {
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** Silence of the given length (s). */
export function silence(seconds: number, sampleRate = 48_000): Float32Array {
  return new Float32Array(round(seconds * sampleRate));
}

/** The root of the mean square of a sound. */
export function rms(samples: Float32Array): number {
  let sum = 0;
  for (const sample of samples) sum += sample * sample;
  return sqrt(sum / samples.length);
}

/** Returns white noise between −0.5 and 0.5, the same for the same seed. */
export function noise(seed: number, frames: number): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from({ length: frames }, () => random() - 0.5);
}
