import type { MakeFft, RealFft } from '../measure/fft.ts';

const { ceil, cos, max, min, PI, sin } = Math;

/** A windowed sinc (Blackman) that halves the band: of its taps on each side, every second is nought. Flat up to 10.5 kHz of 48. */
const SIDE_TAPS = 48;
/** So many frames are filtered at once. */
const BLOCK = 32_768;
/** So many frames of a block are right; the filter wraps round into the others. */
const HOP = BLOCK - 2 * SIDE_TAPS;

/** Brings sounds to half of their rate, without what that cannot carry, block by block (overlap-save; Oppenheim and Schafer, Discrete-Time Signal Processing, section 8.7). */
export class Halver {
  private readonly whole: RealFft;
  private readonly half: RealFft;
  /** The filter at each bin: it is symmetric, so that it turns no phase. */
  private readonly response = new Float32Array(BLOCK / 2 + 1);
  private readonly block = new Float32Array(BLOCK);
  private readonly spectrum = new Float32Array(BLOCK);
  private readonly folded = new Float32Array(BLOCK / 2);
  private readonly made = new Float32Array(BLOCK / 2);

  constructor(makeFft: MakeFft) {
    this.whole = makeFft(BLOCK);
    this.half = makeFft(BLOCK / 2);
    const { block, spectrum, response } = this;
    block[0] = 0.5;
    for (let at = 1; at < SIDE_TAPS; at += 2) {
      const window = 0.42 + 0.5 * cos((PI * at) / SIDE_TAPS) + 0.08 * cos((2 * PI * at) / SIDE_TAPS);
      block[at] = (window * sin((PI * at) / 2)) / (PI * at);
      block[BLOCK - at] = block[at];
    }
    this.whole.forward(block, spectrum);
    for (let bin = 0; bin < BLOCK / 2; bin++) response[bin] = spectrum[2 * bin] / BLOCK;
    response[BLOCK / 2] = spectrum[1] / BLOCK;
  }

  halved(samples: Float32Array): Float32Array {
    const out = new Float32Array(ceil(samples.length / 2));
    const { block, made } = this;
    for (let at = 0; at < samples.length; at += HOP) {
      const first = at - SIDE_TAPS;
      block.fill(0);
      block.set(samples.subarray(max(0, first), min(samples.length, first + BLOCK)), max(0, -first));
      this.halveBlock();
      const count = min(HOP / 2, out.length - at / 2);
      out.set(made.subarray(SIDE_TAPS / 2, SIDE_TAPS / 2 + count), at / 2);
    }
    return out;
  }

  /** Halves the block: the upper half of its filtered band folds onto the lower one. */
  private halveBlock(): void {
    const { block, spectrum, response, folded } = this;
    this.whole.forward(block, spectrum);
    folded[0] = spectrum[0] * response[0] + spectrum[1] * response[BLOCK / 2];
    folded[1] = 2 * spectrum[BLOCK / 2] * response[BLOCK / 4];
    for (let bin = 1; bin < BLOCK / 4; bin++) {
      const mirror = BLOCK / 2 - bin;
      folded[2 * bin] = spectrum[2 * bin] * response[bin] + spectrum[2 * mirror] * response[mirror];
      folded[2 * bin + 1] =
        spectrum[2 * bin + 1] * response[bin] - spectrum[2 * mirror + 1] * response[mirror];
    }
    this.half.inverse(folded, this.made);
  }
}
