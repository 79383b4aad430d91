import { compiled } from './compiled.ts';

/** The loops of assembly/index.ts, which says what each does. Addresses are bytes into the memory. */
interface Loops {
  firstFree(): number;
  multiply(aAt: number, bAt: number, outAt: number, count: number): void;
  addScaled(aAt: number, gain: number, outAt: number, count: number): void;
  unpackPairs(packedAt: number, count: number, scale: number, leftAt: number, rightAt: number): void;
  dealPairs(packedAt: number, count: number, leftAt: number, rightAt: number): void;
  wholePairs(leftAt: number, rightAt: number, count: number, outAt: number): void;
  packPairs(leftAt: number, rightAt: number, count: number, outAt: number): void;
  addPair(
    leftAt: number,
    rightAt: number,
    gain: number,
    outLeftAt: number,
    outRightAt: number,
    count: number,
  ): void;
  filterPair(leftAt: number, rightAt: number, count: number, sectionAt: number, stateAt: number): void;
  compress(leftAt: number, rightAt: number, count: number, settingsAt: number, reductionDb: number): number;
  kWeight(
    leftAt: number,
    rightAt: number,
    outLeftAt: number,
    outRightAt: number,
    count: number,
    stateAt: number,
    sectionsAt: number,
    powersAt: number,
  ): void;
  interpolate(
    soundAt: number,
    before: number,
    start: number,
    step: number,
    first: number,
    count: number,
    tableAt: number,
    phases: number,
    taps: number,
    outAt: number,
  ): void;
  mean(aAt: number, bAt: number, outAt: number, count: number): void;
  addProducts(aAt: number, bAt: number, outAt: number, count: number): void;
  addCapped(aAt: number, cap: number, outAt: number, count: number): void;
  scale(at: number, factor: number, count: number): void;
  placeOfHighest(at: number, count: number): number;
  dot(aAt: number, bAt: number, count: number): number;
  highest(at: number, count: number): number;
  halfway(at: number, count: number, filterAt: number, taps: number, outAt: number): void;
  peaksBetween(
    at: number,
    halvesAt: number,
    count: number,
    filtersAt: number,
    filters: number,
    outAt: number,
  ): void;
  bandPowers(binsAt: number, edgesAt: number, bands: number, outAt: number): void;
  strongestPower(binsAt: number, count: number): number;
  flatten(binsAt: number, count: number, scale: number, floor: number): void;
  toPhases(binsAt: number, count: number, floor: number): void;
  addCrossSpectrum(aAt: number, bAt: number, outAt: number, count: number): void;
  crossEveryThird(
    aAt: number,
    bAt: number,
    bins: number,
    tapsAt: number,
    outAt: number,
    roomAt: number,
  ): void;
  crossWeighted(
    soundAt: number,
    codeAt: number,
    weightsAt: number,
    bins: number,
    scale: number,
    outAt: number,
  ): void;
  weightedPower(binsAt: number, weightsAt: number, bins: number): number;
  inversePowers(
    binsAt: number,
    bins: number,
    aside: number,
    share: number,
    least: number,
    outAt: number,
  ): void;
  fitOfCode(
    soundAt: number,
    codeAt: number,
    weightsAt: number,
    first: number,
    bins: number,
    angle: number,
    each: number,
    sumsAt: number,
  ): void;
  turnBins(binsAt: number, first: number, bins: number, angle: number, outAt: number): void;
  powersAndCross(
    aAt: number,
    bAt: number,
    cosAt: number,
    sinAt: number,
    ownAt: number,
    wholeAt: number,
    crossAt: number,
    bins: number,
  ): void;
  fitGain(
    ownAt: number,
    wholeAt: number,
    crossAt: number,
    bins: number,
    gain: number,
    empty: number,
    sumsAt: number,
  ): void;
  restOfPair(
    leftAt: number,
    rightAt: number,
    soundLeftAt: number,
    soundRightAt: number,
    gain: number,
    outAt: number,
    bins: number,
  ): void;
  addFitSums(
    leftAt: number,
    rightAt: number,
    firstAt: number,
    secondAt: number,
    weightsAt: number,
    gain: number,
    bins: number,
    sumsAt: number,
  ): void;
  colourIn(firstAt: number, secondAt: number, coloursAt: number, outAt: number, bins: number): void;
  addLevelSums(mixAt: number, soundAt: number, weightsAt: number, bins: number, sumsAt: number): void;
}

const PAGE_BYTES = 65_536;
const ALIGNED_BYTES = 16;
let module: WebAssembly.Module | null = null;

/**
 * Fast loops over floats (WebAssembly SIMD), with the memory that they work on: arrays come from {@link Kernels.floats},
 * and only such arrays, or parts of them, may be handed to the loops.
 *
 * @example
 * const kernels = new Kernels(1000);
 * const a = kernels.floats(500).fill(2);
 * kernels.loops.dot(a.byteOffset, a.byteOffset, 500); // 2000
 */
export class Kernels {
  readonly loops: Loops;
  private readonly memory: WebAssembly.Memory;
  private readonly firstFree: number;
  private usedBytes: number;

  /** @param floats how many floats will be asked for in all; pages are taken from the system once they are written */
  constructor(floats: number) {
    this.memory = new WebAssembly.Memory({ initial: Math.ceil((floats * 4) / PAGE_BYTES) + 1 });
    module ??= new WebAssembly.Module(compiled);
    const { exports } = new WebAssembly.Instance(module, { env: { memory: this.memory } });
    this.loops = exports as unknown as Loops;
    this.firstFree = Math.ceil(this.loops.firstFree() / ALIGNED_BYTES) * ALIGNED_BYTES;
    this.usedBytes = this.firstFree;
  }

  /** How many floats there is room for in all. */
  get size(): number {
    return (this.memory.buffer.byteLength - this.firstFree) / 4;
  }

  /** Takes every array back, which is then zeros again. */
  clear(): void {
    new Uint8Array(this.memory.buffer, this.firstFree, this.usedBytes - this.firstFree).fill(0);
    this.usedBytes = this.firstFree;
  }

  /** Returns an array of zeros in the loops' memory. */
  floats(count: number): Float32Array {
    return new Float32Array(this.memory.buffer, this.take(count * 4), count);
  }

  /** Returns a copy of an array in the loops' memory. */
  copyOf(values: Float32Array): Float32Array {
    const copy = this.floats(values.length);
    copy.set(values);
    return copy;
  }

  /** Returns an array of doubles in the loops' memory, which takes the room of twice as many floats. */
  doubles(count: number): Float64Array {
    return new Float64Array(this.memory.buffer, this.take(count * 8), count);
  }

  private take(bytes: number): number {
    const at = this.usedBytes;
    this.usedBytes = at + Math.ceil(bytes / ALIGNED_BYTES) * ALIGNED_BYTES;
    if (this.usedBytes > this.memory.buffer.byteLength)
      throw new Error(
        `the loops' memory has ${this.memory.buffer.byteLength} bytes, ${this.usedBytes} are needed`,
      );
    return at;
  }
}
