const { abs, ceil, floor, PI, sin, sqrt } = Math;

/** How finely the places between two samples are tabulated. */
const PHASES = 512;

/** How a new sample is made of old ones: how many to each side, and the shape of the Kaiser window (Kaiser and Schafer 1980). */
export interface Interpolation {
  half: number;
  beta: number;
}

/** For all that can be heard at 48 kHz: side lobes lie 90 dB down. */
const WHOLE_BAND: Interpolation = { half: 32, beta: 9 };
/** For sounds that end a sixth of their band early: side lobes lie 75 dB down. */
export const WITHOUT_TOP: Interpolation = { half: 14, beta: 7.3 };

const tables = new Map<Interpolation, Float32Array>();

/** For each phase the weights of the samples around it; one phase more, so that two can be blended. */
function tableOf(interpolation: Interpolation): Float32Array {
  let table = tables.get(interpolation);
  if (table) return table;
  const { half, beta } = interpolation;
  const taps = 2 * half;
  table = new Float32Array((PHASES + 1) * taps);
  for (let phase = 0; phase <= PHASES; phase++) {
    for (let tap = 0; tap < taps; tap++) {
      const x = tap - (half - 1) - phase / PHASES;
      const window = abs(x) >= half ? 0 : bessel(beta * sqrt(1 - (x / half) ** 2)) / bessel(beta);
      table[phase * taps + tap] = window * (abs(x) < 1e-9 ? 1 : sin(PI * x) / (PI * x));
    }
  }
  tables.set(interpolation, table);
  return table;
}

/** The modified Bessel function of order zero, by its series. */
function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 50 && term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/**
 * Moves sound in time as it passes by, and lets it run a little faster or slower: a frame of the new sound is the old sound at
 * `startsAt + frame · step`, interpolated by a windowed sine cardinal. Before and after the old sound it is silent. For clocks that differ by
 * a few parts in a thousand at most: nothing is filtered against aliases.
 */
export class Retimer {
  private readonly channels: number;
  private readonly startsAt: number;
  private readonly step: number;
  /** What is held of the old sound, and which of its frames comes first. */
  private held: Float32Array[];
  private heldFrom: number;
  private readonly half: number;
  private readonly weights: Float32Array;
  private made = 0;

  /** @param startsAt frame of the old sound, which may be negative; @param step frames of the old sound in one of the new */
  constructor(channels: number, startsAt: number, step: number, interpolation = WHOLE_BAND) {
    this.half = interpolation.half;
    this.weights = tableOf(interpolation);
    this.heldFrom = -this.half;
    this.channels = channels;
    this.startsAt = startsAt;
    this.step = step;
    this.held = Array.from({ length: channels }, () => new Float32Array(this.half));
  }

  /** Takes the next frames of the old sound and returns what is ready of the new one, but no more than so many frames of it in all. */
  push(planes: readonly Float32Array[], mostInAll = Number.POSITIVE_INFINITY): Float32Array[] {
    this.held = this.held.map((before, channel) => {
      const joined = new Float32Array(before.length + planes[channel].length);
      joined.set(before);
      joined.set(planes[channel], before.length);
      return joined;
    });
    const end = this.heldFrom + this.held[0].length;
    const ready = Math.max(0, ceil((end - this.half - this.startsAt) / this.step - this.made));
    return this.make(Math.max(0, Math.min(ready, mostInAll - this.made)));
  }

  /** Returns the rest, so that there are so many frames of the new sound in all: silence where the old one has ended. */
  flush(inAll: number, mostAtOnce: number): Float32Array[] {
    const count = Math.min(mostAtOnce, inAll - this.made);
    if (count <= 0) return this.make(0);
    const needed = ceil(this.startsAt + (this.made + count) * this.step) + this.half + 1;
    const missing = Math.max(0, needed - this.heldFrom - this.held[0].length);
    const silence = new Float32Array(missing);
    return this.push(
      Array.from({ length: this.channels }, () => silence),
      this.made + count,
    );
  }

  private make(count: number): Float32Array[] {
    const made = this.held.map((old) => this.interpolated(old, count));
    this.made += count;
    // What lies before the next frame’s first sample is not needed again.
    const from = floor(this.startsAt + this.made * this.step) - this.half;
    const spare = Math.min(this.held[0].length, Math.max(0, from - this.heldFrom));
    this.held = this.held.map((plane) => plane.slice(spare));
    this.heldFrom += spare;
    return made;
  }

  private interpolated(old: Float32Array, count: number): Float32Array {
    const { half } = this;
    const taps = 2 * half;
    const made = new Float32Array(count);
    for (let i = 0; i < count; i++) {
      const at = this.startsAt + (this.made + i) * this.step - this.heldFrom;
      const whole = floor(at);
      const place = (at - whole) * PHASES;
      const phase = floor(place);
      const share = place - phase;
      const first = whole - half + 1;
      if (first + taps <= 0 || first >= old.length) continue;
      const isWhole = first >= 0 && first + taps <= old.length;
      made[i] = isWhole ? this.within(old, first, phase, share) : this.atEdge(old, first, phase, share);
    }
    return made;
  }

  /** One new sample, from samples that are all there. */
  private within(old: Float32Array, first: number, phase: number, share: number): number {
    const { weights } = this;
    const taps = 2 * this.half;
    const row = phase * taps;
    const next = row + taps;
    let even = 0;
    let odd = 0;
    let evenNext = 0;
    let oddNext = 0;
    for (let tap = 0; tap < taps; tap += 2) {
      const sample = old[first + tap];
      const after = old[first + tap + 1];
      even += sample * weights[row + tap];
      odd += after * weights[row + tap + 1];
      evenNext += sample * weights[next + tap];
      oddNext += after * weights[next + tap + 1];
    }
    return even + odd + share * (evenNext + oddNext - even - odd);
  }

  /** One new sample where some of the samples that it is made of lie before or after the old sound: those are silent. */
  private atEdge(old: Float32Array, first: number, phase: number, share: number): number {
    const { weights } = this;
    const taps = 2 * this.half;
    const row = phase * taps;
    let sum = 0;
    for (let tap = Math.max(0, -first); tap < Math.min(taps, old.length - first); tap++)
      sum +=
        old[first + tap] * (weights[row + tap] + share * (weights[row + taps + tap] - weights[row + tap]));
    return sum;
  }
}
