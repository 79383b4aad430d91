import { Kernels } from '../kernels/kernels.ts';

const { abs, log10, sqrt } = Math;

/** So many frames are multiplied at a time. */
const PORTION = 4096;

/** How one track of a recording relates to others of it: by their numbers, counted from zero. */
export type Relation =
  | { kind: 'equal'; tracks: [number, number]; gainDb: number }
  | { kind: 'sum'; track: number; of: { track: number; gainDb: number }[]; restDb: number };

/** Two tracks are equal when what differs is this much below them; a track is a sum when what is left of it is (as a share of power). */
const EQUAL_SHARE = 1e-3;
const SUM_SHARE = 0.01;
/** A track is part of a sum when taking it out leaves this many times more. */
const PART_FACTOR = 1.5;

/**
 * Gathers how alike the tracks of a recording are, sample by sample (as the mean of their sides), to tell which are equal and which are
 * sums of others. Tracks that one recorder wrote at once lie in step.
 */
export class RelationMeter {
  private readonly count: number;
  private readonly products: Float64Array;
  private readonly kernels: Kernels;
  private readonly room: Float32Array[];

  constructor(tracks: number) {
    this.count = tracks;
    this.products = new Float64Array(tracks * tracks);
    this.kernels = new Kernels(tracks * (PORTION + 4));
    this.room = Array.from({ length: tracks }, () => this.kernels.floats(PORTION));
  }

  /** Takes the next frames of every track, each as one plane. */
  add(planes: readonly Float32Array[], frames: number): void {
    for (let from = 0; from < frames; from += PORTION) {
      const count = Math.min(PORTION, frames - from);
      for (let a = 0; a < this.count; a++) this.room[a].set(planes[a].subarray(from, from + count));
      for (let a = 0; a < this.count; a++)
        for (let b = a; b < this.count; b++)
          this.products[a * this.count + b] += this.kernels.loops.dot(
            this.room[a].byteOffset,
            this.room[b].byteOffset,
            count,
          );
    }
  }

  result(): Relation[] {
    const relations: Relation[] = [];
    const sounding = Array.from({ length: this.count }, (_, at) => at).filter((at) => this.at(at, at) > 0);
    const twins = new Set<number>();
    for (const a of sounding)
      for (const b of sounding) {
        if (b <= a || twins.has(b)) continue;
        const gain = this.at(a, b) / this.at(a, a);
        const rest = this.at(b, b) - gain * this.at(a, b);
        if (rest > EQUAL_SHARE * this.at(b, b)) continue;
        relations.push({ kind: 'equal', tracks: [a, b], gainDb: 20 * log10(abs(gain)) });
        twins.add(b);
      }
    const distinct = sounding.filter((at) => !twins.has(at));
    for (const track of distinct) {
      const sum = this.sumOf(
        track,
        distinct.filter((other) => other !== track),
      );
      if (sum) relations.push(sum);
    }
    return relations;
  }

  private at(a: number, b: number): number {
    return this.products[Math.min(a, b) * this.count + Math.max(a, b)];
  }

  /** The other tracks of which a track is the sum, by least squares; null where they do not explain it. */
  private sumOf(track: number, others: number[]): Relation | null {
    let parts = others;
    for (;;) {
      if (parts.length < 2) return null;
      const gains = this.fitted(track, parts);
      const whole = this.at(track, track);
      const rest = this.restOf(track, parts, gains);
      if (rest > SUM_SHARE * whole) return null;
      // A part that does not help, or would have to be taken away, is none.
      const idle = parts.findIndex((_, at) => {
        const without = parts.filter((_part, index) => index !== at);
        const left = this.restOf(track, without, this.fitted(track, without));
        return gains[at] <= 0 || left < PART_FACTOR * Math.max(rest, 1e-6 * whole);
      });
      if (idle < 0)
        return {
          kind: 'sum',
          track,
          of: parts.map((part, at) => ({ track: part, gainDb: 20 * log10(gains[at]) })),
          restDb: 10 * log10(Math.max(rest / whole, 1e-12)),
        };
      parts = parts.filter((_, at) => at !== idle);
    }
  }

  private restOf(track: number, parts: number[], gains: number[]): number {
    return this.at(track, track) - parts.reduce((sum, part, at) => sum + gains[at] * this.at(track, part), 0);
  }

  /** The gains of parts in a track, by least squares (Cholesky; a hair of noise keeps it solvable). */
  private fitted(track: number, parts: number[]): number[] {
    const n = parts.length;
    const lower = parts.map(() => new Float64Array(n));
    for (let i = 0; i < n; i++)
      for (let j = 0; j <= i; j++) {
        let value = this.at(parts[i], parts[j]) * (i === j ? 1 + 1e-9 : 1);
        for (let k = 0; k < j; k++) value -= lower[i][k] * lower[j][k];
        lower[i][j] = i === j ? sqrt(Math.max(value, 1e-20)) : value / lower[j][j];
      }
    const solved = new Float64Array(n);
    for (let i = 0; i < n; i++) {
      let value = this.at(track, parts[i]);
      for (let k = 0; k < i; k++) value -= lower[i][k] * solved[k];
      solved[i] = value / lower[i][i];
    }
    for (let i = n - 1; i >= 0; i--) {
      let value = solved[i];
      for (let k = i + 1; k < n; k++) value -= lower[k][i] * solved[k];
      solved[i] = value / lower[i][i];
    }
    return [...solved];
  }
}
