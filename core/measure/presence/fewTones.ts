import type { MakeFft, RealFft } from '../fft.ts';
import { SILENCE_RMS } from './windows.ts';

const { cos, min, PI } = Math;

/** Windows of 2.7 s at 48 kHz. */
const SIZE = 1 << 17;
/** A window is a few tones when so few bins hold nearly all of its power: four or five to a tone. */
const FEW_BINS = 60;
const NEARLY_ALL = 0.999;

/** A Blackman–Harris window, so that what leaks lies below the share that is counted (Harris, 1978). */
const WINDOW = Float32Array.from({ length: SIZE }, (_, i) => {
  const turn = (2 * PI * i) / SIZE;
  return 0.35875 - 0.48829 * cos(turn) + 0.14128 * cos(2 * turn) - 0.01168 * cos(3 * turn);
});

/**
 * Tells whether a sound is nothing but a few steady tones (a drone, a test tone) all along. Where such a sound is in another one cannot be
 * told by correlation, which has as many peaks as the tone has periods.
 */
export class FewTonesMeter {
  private readonly fft: RealFft;
  private readonly samples = new Float32Array(SIZE);
  private readonly windowed = new Float32Array(SIZE);
  private readonly spectrum = new Float32Array(SIZE);
  private filled = 0;
  private isAny = false;
  /** More than a few tones were heard: what follows does not matter any more. */
  isMore = false;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: MakeFft) {
    this.fft = makeFft(SIZE);
  }

  /** Takes the next frames (mono, 48 kHz). */
  add(samples: Float32Array, frames = samples.length): void {
    for (let from = 0; from < frames && !this.isMore; ) {
      const count = min(frames - from, SIZE - this.filled);
      this.samples.set(samples.subarray(from, from + count), this.filled);
      this.filled += count;
      from += count;
      if (this.filled === SIZE) this.takeWindow();
    }
  }

  /** Whether all that was heard is a few tones; false where nothing was. */
  result(): boolean {
    return this.isAny && !this.isMore;
  }

  private takeWindow(): void {
    const { samples, windowed, spectrum } = this;
    let power = 0;
    for (let i = 0; i < SIZE; i++) {
      power += samples[i] ** 2;
      windowed[i] = samples[i] * WINDOW[i];
    }
    samples.copyWithin(0, SIZE / 2);
    this.filled = SIZE / 2;
    if (power / SIZE < SILENCE_RMS ** 2) return;
    this.isAny = true;
    this.fft.forward(windowed, spectrum);
    this.isMore = binsOf(spectrum) > FEW_BINS;
  }
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
