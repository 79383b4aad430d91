import { Kernels } from '../../kernels/kernels.ts';
import type { RealFft } from '../fft.ts';
import { hann } from '../hann.ts';
import { RATE, SILENCE_RMS } from './windows.ts';

const { log, max, min, round } = Math;

const FRAME = 4096;
/** So many samples from one frame of a fingerprint to the next. */
export const HOP = 2048;
/** Frames of a fingerprint in a second. */
export const PRINT_RATE = RATE / HOP;
/** So many bands, each of the same width in octaves, from one frequency to another (Hz). */
export const BANDS = 160;
const LOW_HZ = 300;
const HIGH_HZ = 12_000;
/** Longer than this it does not matter how long a sound is (s): what fits into a byte, in tenths. */
const MOST_SOUNDING_S = 25.5;
/** What stands out is told from the mean over so much time to each side (s), and so many bands to each side. */
export const AROUND_FRAMES = round(2 * PRINT_RATE);
const AROUND_BANDS = 2;
/** Power below this (white noise at about −115 dBFS) is rounding. */
const FLOOR = 1e-6;
/** Whole steps to a neper of what stands out, and the most that counts (0.7 neper, 3 dB): none of it can carry a sum. */
const STEPS = 10;
const MOST = 7;

/** At which bin each band begins, and the one after the last. (A band has one bin at least.) */
const EDGES = Int32Array.from({ length: BANDS + 1 }, (_, edge) =>
  round(((LOW_HZ * (HIGH_HZ / LOW_HZ) ** (edge / BANDS)) / RATE) * FRAME),
);

/** What stands out of a sound from moment to moment and band to band: small, and enough to find where a sound is in another one. */
export interface Fingerprint {
  frames: number;
  /** Frame by frame, {@link BANDS} values each, from −7 to 7. */
  values: Int8Array;
  /** How long it sounds in all (s, in tenths), up to {@link MOST_SOUNDING_S}. */
  soundingS: number;
}

/** Joins the fingerprints of parts of a sound, in their order. */
export function joinedPrints(parts: Fingerprint[]): Fingerprint {
  const values = new Int8Array(parts.reduce((sum, part) => sum + part.values.length, 0));
  let at = 0;
  for (const part of parts) {
    values.set(part.values, at);
    at += part.values.length;
  }
  return {
    frames: values.length / BANDS,
    values,
    soundingS: min(
      MOST_SOUNDING_S,
      parts.reduce((sum, { soundingS }) => sum + soundingS, 0),
    ),
  };
}

/** Packs a fingerprint, to be kept: one byte that tells how long it sounds (tenths of a second), then two values a byte. */
export function packPrint({ values, soundingS }: Fingerprint): Uint8Array {
  const packed = new Uint8Array(1 + values.length / 2);
  packed[0] = round(soundingS * 10);
  for (let i = 0; i < values.length; i += 2) packed[1 + i / 2] = ((values[i] + 8) << 4) | (values[i + 1] + 8);
  return packed;
}

/** Unpacks what {@link packPrint} packed; null where it is something else. */
export function unpackPrint(packed: Uint8Array): Fingerprint | null {
  const count = 2 * (packed.length - 1);
  if (count < 0 || count % BANDS !== 0) return null;
  const values = new Int8Array(count);
  for (let i = 0; i < values.length; i += 2) {
    values[i] = (packed[1 + i / 2] >> 4) - 8;
    values[i + 1] = (packed[1 + i / 2] & 15) - 8;
  }
  return { frames: values.length / BANDS, values, soundingS: packed[0] / 10 };
}

/**
 * Takes the fingerprint of a sound as it passes by: the logarithm of its power in each band and frame, less the mean of the bands and of the
 * time around it, and capped. What two sounds share then correlates, whatever else sounds at the same time, however loud.
 * (The idea of comparing differences of band energies over time is that of Haitsma and Kalker, "A highly robust audio fingerprinting
 * system", ISMIR 2002; here their sizes count and not their signs alone, and whole passages are correlated.)
 */
export class FingerprintMeter {
  private readonly fft: RealFft;
  private readonly loops: Kernels['loops'];
  private readonly samples: Float32Array;
  private readonly window: Float32Array;
  private readonly windowed: Float32Array;
  private readonly spectrum: Float32Array;
  /** As the kernels want it: whole numbers in the place of floats. */
  private readonly edgesAt: number;
  private readonly powers: Float32Array;
  private readonly logs = new Float32Array(BANDS);
  /** The latest frames, as many as are averaged over, and their sums. */
  private readonly recent = new Float32Array((2 * AROUND_FRAMES + 1) * BANDS);
  private readonly sums = new Float64Array(BANDS);
  private values = new Int8Array(4096 * BANDS);
  private filled = FRAME - HOP;
  private taken = 0;
  private written = 0;
  private sounding = 0;

  /** @param makeFft from `loadFft()` */
  constructor(makeFft: (size: number) => RealFft) {
    this.fft = makeFft(FRAME);
    const kernels = new Kernels(4 * (FRAME + 4) + 2 * (BANDS + 8));
    this.loops = kernels.loops;
    [this.samples, this.window, this.windowed, this.spectrum] = [0, 1, 2, 3].map(() => kernels.floats(FRAME));
    this.window.set(hann(FRAME));
    const edges = kernels.floats(BANDS + 1);
    new Int32Array(edges.buffer, edges.byteOffset, edges.length).set(EDGES);
    this.edgesAt = edges.byteOffset;
    this.powers = kernels.floats(BANDS);
  }

  /** Takes the next frames (mono, 48 kHz). */
  add(samples: Float32Array, frames = samples.length): void {
    for (let from = 0; from < frames; ) {
      const count = min(frames - from, FRAME - this.filled);
      this.samples.set(samples.subarray(from, from + count), this.filled);
      this.filled += count;
      from += count;
      if (this.filled === FRAME) this.takeFrame();
    }
  }

  /** Nothing can be added afterwards. */
  result(): Fingerprint {
    while (this.written < this.taken) this.write();
    return {
      frames: this.written,
      values: this.values.slice(0, this.written * BANDS),
      soundingS: min(MOST_SOUNDING_S, round((10 * this.sounding) / PRINT_RATE) / 10),
    };
  }

  private takeFrame(): void {
    const { loops, samples, window, windowed, spectrum, powers, logs } = this;
    const power = loops.dot(samples.byteOffset, samples.byteOffset, FRAME) / FRAME;
    if (power >= SILENCE_RMS ** 2) this.sounding += 1;
    loops.multiply(samples.byteOffset, window.byteOffset, windowed.byteOffset, FRAME);
    this.fft.forward(windowed, spectrum);
    loops.bandPowers(spectrum.byteOffset, this.edgesAt, BANDS, powers.byteOffset);
    for (let band = 0; band < BANDS; band++) logs[band] = log(powers[band] + FLOOR);
    this.keep();
    samples.copyWithin(0, HOP);
    this.filled = FRAME - HOP;
  }

  /** Keeps what stands out of the bands around, and writes the frame of which all that is around it is known. */
  private keep(): void {
    const { recent, sums, logs } = this;
    const row = this.rowOf(this.taken);
    const isOver = this.taken > 2 * AROUND_FRAMES;
    for (let band = 0; band < BANDS; band++) {
      const from = max(0, band - AROUND_BANDS);
      const to = min(BANDS - 1, band + AROUND_BANDS);
      let around = 0;
      for (let other = from; other <= to; other++) around += logs[other];
      const value = logs[band] - around / (to - from + 1);
      sums[band] += value - (isOver ? recent[row + band] : 0);
      recent[row + band] = value;
    }
    this.taken += 1;
    if (this.taken > AROUND_FRAMES) this.write();
  }

  private write(): void {
    const { recent, sums } = this;
    const at = this.written;
    // At the end, what is before the last frames is still all that is averaged over.
    const count = min(this.taken, 2 * AROUND_FRAMES + 1);
    const row = this.rowOf(at);
    if ((at + 1) * BANDS > this.values.length) this.grow();
    for (let band = 0; band < BANDS; band++) {
      const steps = STEPS * (recent[row + band] - sums[band] / count);
      this.values[at * BANDS + band] = max(-MOST, min(MOST, round(steps)));
    }
    this.written += 1;
  }

  private rowOf(frame: number): number {
    return (frame % (2 * AROUND_FRAMES + 1)) * BANDS;
  }

  private grow(): void {
    const larger = new Int8Array(2 * this.values.length);
    larger.set(this.values);
    this.values = larger;
  }
}
