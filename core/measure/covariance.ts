import type { Stereo } from '../audio/planes.ts';
import { Kernels } from '../kernels/kernels.ts';
import { KWeighting } from './kWeighting.ts';
import { gatedLoudness, type Loudness, loudnessRange, toLufs } from './loudness.ts';

const { max, min, round } = Math;

/** Covariances are kept for every tenth of a second, the step of all gated figures. */
export const BLOCK_S = 0.1;
const HEAD_BYTES = 8;
/** Momentary loudness covers 400 ms, short-term 3 s. */
export const MOMENTARY_BLOCKS = 4;
export const SHORT_TERM_BLOCKS = 30;

/**
 * The K-weighted cross-covariances of some stereo sounds over each 100 ms, both sides added up. `pairs` holds one row of
 * `blocks` values for each pair i ≤ j, in the order of {@link pairIndex}.
 */
export interface Covariances {
  sounds: number;
  blocks: number;
  pairs: Float32Array;
}

/** Writes covariances as bytes: two counts (sounds, blocks; 32 bits each), then the rows; little-endian. */
export function packCovariances({ sounds, blocks, pairs }: Covariances): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(HEAD_BYTES + pairs.byteLength);
  new Uint32Array(bytes.buffer, 0, 2).set([sounds, blocks]);
  new Float32Array(bytes.buffer, HEAD_BYTES).set(pairs);
  return bytes;
}

/** Reads what {@link packCovariances} wrote. */
export function unpackCovariances(bytes: ArrayBuffer): Covariances {
  const [sounds, blocks] = new Uint32Array(bytes, 0, 2);
  return { sounds, blocks, pairs: new Float32Array(bytes, HEAD_BYTES) };
}

/** The row of a pair of sounds (i ≤ j) among those of n. */
export function pairIndex(sounds: number, i: number, j: number): number {
  return i * sounds - (i * (i - 1)) / 2 + (j - i);
}

/**
 * Measures the covariances of sounds as they pass by. K-weighting is linear, so that the loudness of any static mix of
 * the sounds follows from them without a render.
 *
 * @example
 * const meter = new CovarianceMeter(48_000, 2);
 * meter.add([game, voice], 48_000);
 * loudnessOfMix(meter.result(), [0.5, 1]);
 */
export class CovarianceMeter {
  private readonly sounds: number;
  private readonly blockFrames: number;
  private readonly kernels: Kernels;
  private readonly filters: KWeighting[];
  private readonly weighted: Stereo[];
  private readonly isSilent: Uint8Array;
  private readonly sums: Float64Array;
  private rows: Float32Array[] = [];
  private filled = 0;

  constructor(sampleRate: number, sounds: number) {
    this.sounds = sounds;
    this.blockFrames = round(sampleRate * BLOCK_S);
    this.kernels = new Kernels(2 * sounds * (this.blockFrames + 4));
    this.filters = Array.from({ length: sounds }, () => new KWeighting(sampleRate));
    this.weighted = Array.from({ length: sounds }, () => [
      this.kernels.floats(this.blockFrames),
      this.kernels.floats(this.blockFrames),
    ]);
    this.isSilent = new Uint8Array(sounds);
    this.sums = new Float64Array((sounds * (sounds + 1)) / 2);
  }

  /** Takes the next `frames` frames of every sound. */
  add(planes: Stereo[], frames: number): void {
    for (let from = 0; from < frames; ) {
      const count = min(frames - from, this.blockFrames - this.filled);
      for (let sound = 0; sound < this.sounds; sound++) {
        const filter = this.filters[sound];
        filter.process(planes[sound], from, count, this.weighted[sound]);
        this.isSilent[sound] = filter.powers[0] + filter.powers[1] === 0 ? 1 : 0;
      }
      this.addProducts(count);
      this.filled += count;
      from += count;
      if (this.filled === this.blockFrames) this.closeBlock();
    }
  }

  /** Returns the covariances of all whole blocks so far. */
  result(): Covariances {
    const blocks = this.rows.length;
    const pairs = new Float32Array(this.sums.length * blocks);
    this.rows.forEach((row, block) => {
      for (let pair = 0; pair < row.length; pair++) pairs[pair * blocks + block] = row[pair];
    });
    return { sounds: this.sounds, blocks, pairs };
  }

  private addProducts(frames: number): void {
    const { dot } = this.kernels.loops;
    let pair = 0;
    for (let i = 0; i < this.sounds; i++) {
      for (let j = i; j < this.sounds; j++, pair++) {
        if (this.isSilent[i] || this.isSilent[j]) continue;
        for (let side = 0; side < 2; side++) {
          const [one, other] = [this.weighted[i][side], this.weighted[j][side]];
          this.sums[pair] += dot(one.byteOffset, other.byteOffset, frames);
        }
      }
    }
  }

  private closeBlock(): void {
    this.rows.push(Float32Array.from(this.sums, (sum) => sum / this.blockFrames));
    this.sums.fill(0);
    this.filled = 0;
  }
}

/**
 * Returns the K-weighted power of a mix for each 100 ms: e(t) = gᵀ C(t) g.
 * @param gains a factor for each sound
 */
export function powersOfMix(covariances: Covariances, gains: ArrayLike<number>): Float64Array {
  const { sounds, blocks } = covariances;
  const rows = rowsOf(covariances);
  const { sum } = rows;
  sum.fill(0);
  for (let i = 0; i < sounds; i++) {
    for (let j = i; j < sounds; j++) {
      const weight = (i === j ? 1 : 2) * gains[i] * gains[j];
      if (weight !== 0) rows.add(pairIndex(sounds, i, j), weight, sum);
    }
  }
  const powers = new Float64Array(blocks);
  for (let block = 0; block < blocks; block++) powers[block] = max(0, sum[block]);
  return powers;
}

/** Covariances in the loops' memory, with room for a sum of their rows. */
class Rows {
  readonly sum: Float32Array;
  readonly pairs: Float32Array;
  private readonly kernels: Kernels;
  private readonly blocks: number;

  constructor(kernels: Kernels, pairs: Float32Array, blocks: number) {
    this.kernels = kernels;
    this.pairs = pairs;
    this.blocks = blocks;
    this.sum = kernels.floats(blocks);
  }

  /** Adds a row, times a weight, to a row that begins at an index of an array of the loops' memory. */
  add(row: number, weight: number, sum: Float32Array, index = 0): void {
    const at = this.pairs.byteOffset + row * this.blocks * BYTES;
    this.kernels.loops.addScaled(at, weight, sum.byteOffset + index * BYTES, this.blocks);
  }
}

/** Covariances with those that were condensed from them last, which are put in the same place each time. */
interface Held {
  rows: Rows;
  condensed: Rows;
  condensedTo: Covariances | null;
}

const BYTES = Float32Array.BYTES_PER_ELEMENT;
/** Six parts at most have so many rows. */
const MOST_CONDENSED = 21;
const held = new WeakMap<Covariances, Held>();
const condensedRows = new WeakMap<Covariances, Rows>();

/** Covariances are put into the loops' memory once. */
function hold(covariances: Covariances): Held {
  const known = held.get(covariances);
  if (known) return known;
  const { pairs, blocks } = covariances;
  const kernels = new Kernels(pairs.length + (MOST_CONDENSED + 2) * (blocks + 4) + 8);
  const rows = new Rows(kernels, kernels.copyOf(pairs), blocks);
  const condensed = new Rows(kernels, kernels.floats(MOST_CONDENSED * blocks), blocks);
  const made = { rows, condensed, condensedTo: null };
  held.set(covariances, made);
  return made;
}

function rowsOf(covariances: Covariances): Rows {
  return condensedRows.get(covariances) ?? hold(covariances).rows;
}

/**
 * Takes sounds together: returns the covariances of sums of them. They stand where the next call for the same covariances
 * puts its own, and hold until then.
 * @param gains a factor for each sound
 * @param partOf the sum that each sound goes into
 * @param parts six at most
 */
export function condense(
  covariances: Covariances,
  gains: ArrayLike<number>,
  partOf: number[],
  parts: number,
): Covariances {
  const { sounds, blocks } = covariances;
  const place = hold(covariances);
  if (place.condensedTo) condensedRows.delete(place.condensedTo);
  const count = ((parts * (parts + 1)) / 2) * blocks;
  const sums = place.condensed.pairs;
  sums.fill(0, 0, count);
  for (let i = 0; i < sounds; i++) {
    for (let j = i; j < sounds; j++) {
      const weight = gains[i] * gains[j];
      if (weight === 0) continue;
      const [a, b] = [min(partOf[i], partOf[j]), max(partOf[i], partOf[j])];
      const twice = i !== j && a === b ? 2 : 1;
      place.rows.add(pairIndex(sounds, i, j), weight * twice, sums, pairIndex(parts, a, b) * blocks);
    }
  }
  const condensed = { sounds: parts, blocks, pairs: sums.subarray(0, count) };
  place.condensedTo = condensed;
  condensedRows.set(condensed, place.condensed);
  return condensed;
}

/** Returns the integrated loudness of a mix (LUFS), from its power in each 100 ms; null in silence. */
export function integratedLufs(powers: Float64Array): number | null {
  return gatedLoudness(meansOf(powers, MOMENTARY_BLOCKS));
}

/** Returns the gated figures of a mix, from its power in each 100 ms. Maxima are those of windows on the 100 ms grid. */
export function loudnessOfPowers(powers: Float64Array): Loudness {
  const momentary = meansOf(powers, MOMENTARY_BLOCKS);
  const shortTerm = meansOf(powers, SHORT_TERM_BLOCKS);
  return {
    integratedLufs: gatedLoudness(momentary),
    loudnessRangeLu: loudnessRange(shortTerm),
    maxMomentaryLufs: lufsOrNull(highest(momentary)),
    maxShortTermLufs: lufsOrNull(highest(shortTerm)),
  };
}

/** Returns the figures of a static mix of the sounds; agrees with a render of it. */
export function loudnessOfMix(covariances: Covariances, gains: ArrayLike<number>): Loudness {
  return loudnessOfPowers(powersOfMix(covariances, gains));
}

/** Returns the mean power of every window of so many blocks, one for each start. */
export function meansOf(powers: Float64Array, blocks: number): Float64Array {
  const means = new Float64Array(max(0, powers.length - blocks + 1));
  const share = 1 / blocks;
  let sum = 0;
  for (let i = 0; i < blocks - 1 && i < powers.length; i++) sum += powers[i];
  for (let start = 0; start < means.length; start++) {
    sum += powers[start + blocks - 1];
    means[start] = sum > 0 ? sum * share : 0;
    sum -= powers[start];
  }
  return means;
}

/** The largest of some values, or 0. */
export function highest(values: Float64Array): number {
  let top = 0;
  for (let i = 0; i < values.length; i++) if (values[i] > top) top = values[i];
  return top;
}

function lufsOrNull(power: number): number | null {
  return power > 0 ? toLufs(power) : null;
}
