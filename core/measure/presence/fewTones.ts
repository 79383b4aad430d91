import type { MakeFft } from '../fft.ts';
import { SILENCE_RMS } from './windows.ts';

const { cos, PI } = Math;

/** Windows of 2.7 s at 48 kHz. */
const SIZE = 1 << 17;
/** A window is a few tones when so few bins hold nearly all of its power: four or five to a tone. */
const FEW_BINS = 60;
const NEARLY_ALL = 0.999;

/**
 * Tells whether a sound is nothing but a few steady tones (a drone, a test tone) all along. Where such a sound is in another one cannot be
 * told by correlation, which has as many peaks as the tone has periods.
 * @param samples mono at 48 kHz
 */
export function isFewTones(makeFft: MakeFft, samples: Float32Array): boolean {
  const fft = makeFft(SIZE);
  const windowed = new Float32Array(SIZE);
  const spectrum = new Float32Array(SIZE);
  let isAny = false;
  for (let from = 0; from + SIZE <= samples.length; from += SIZE / 2) {
    let power = 0;
    for (let i = 0; i < SIZE; i++) {
      power += samples[from + i] ** 2;
      // A Blackman–Harris window, so that what leaks lies below the share that is counted (Harris, 1978).
      const turn = (2 * PI * i) / SIZE;
      const fade = 0.35875 - 0.48829 * cos(turn) + 0.14128 * cos(2 * turn) - 0.01168 * cos(3 * turn);
      windowed[i] = samples[from + i] * fade;
    }
    if (power / SIZE < SILENCE_RMS ** 2) continue;
    fft.forward(windowed, spectrum);
    if (binsOf(spectrum) > FEW_BINS) return false;
    isAny = true;
  }
  return isAny;
}

/** In how many bins nearly all of the power lies. */
function binsOf(spectrum: Float32Array): number {
  const powers = new Float64Array(SIZE / 2);
  let whole = 0;
  for (let bin = 1; bin < SIZE / 2; bin++) {
    powers[bin] = spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2;
    whole += powers[bin];
  }
  powers.sort();
  let sum = 0;
  for (let count = 1; count <= FEW_BINS; count++) {
    sum += powers[powers.length - count];
    if (sum >= NEARLY_ALL * whole) return count;
  }
  return FEW_BINS + 1;
}
