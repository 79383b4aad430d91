import { SAMPLE_RATE } from '../audio/planes.ts';

const { cos, PI, sin } = Math;

/** What lies above is gone; up to {@link HIGH_HZ} of the codes nothing changes (Hz). */
const CUTOFF_HZ = 11_500;
/** A windowed sinc (Blackman) of so many taps falls from there to −75 dB within 1.5 kHz. */
const HALF_TAPS = 64;

const TAPS = Float64Array.from({ length: HALF_TAPS + 1 }, (_, i) => {
  const turn = (2 * PI * CUTOFF_HZ) / SAMPLE_RATE;
  const window = 0.42 + 0.5 * cos((PI * i) / (HALF_TAPS + 1)) + 0.08 * cos((2 * PI * i) / (HALF_TAPS + 1));
  return window * (i === 0 ? turn / PI : sin(turn * i) / (PI * i));
});

/** Returns a sound at half of its rate, without what that cannot carry. @param samples at 48 kHz */
export function halved(samples: Float32Array): Float32Array {
  const out = new Float32Array(Math.ceil(samples.length / 2));
  const padded = new Float32Array(samples.length + 2 * HALF_TAPS);
  padded.set(samples, HALF_TAPS);
  for (let i = 0; i < out.length; i++) {
    const middle = 2 * i + HALF_TAPS;
    let sum = TAPS[0] * padded[middle];
    for (let tap = 1; tap <= HALF_TAPS; tap++)
      sum += TAPS[tap] * (padded[middle - tap] + padded[middle + tap]);
    out[i] = sum;
  }
  return out;
}
