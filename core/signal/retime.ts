const { abs, ceil, floor, PI, sin, sqrt } = Math;

/** Samples to each side that a new one is made of, and how finely the places between two samples are tabulated. */
const HALF = 32;
const PHASES = 512;
/** The shape of the Kaiser window: side lobes lie 90 dB down (Kaiser and Schafer 1980). */
const BETA = 9;

/** For each phase the weights of the samples from HALF − 1 before to HALF after; one phase more, so that two can be blended. */
const WEIGHTS = tabulated();

function tabulated(): Float32Array {
  const table = new Float32Array((PHASES + 1) * 2 * HALF);
  for (let phase = 0; phase <= PHASES; phase++) {
    for (let tap = 0; tap < 2 * HALF; tap++) {
      const x = tap - (HALF - 1) - phase / PHASES;
      const window = abs(x) >= HALF ? 0 : bessel(BETA * sqrt(1 - (x / HALF) ** 2)) / bessel(BETA);
      table[phase * 2 * HALF + tap] = window * (abs(x) < 1e-9 ? 1 : sin(PI * x) / (PI * x));
    }
  }
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
  private heldFrom = -HALF;
  private made = 0;

  /** @param startsAt frame of the old sound, which may be negative; @param step frames of the old sound in one of the new */
  constructor(channels: number, startsAt: number, step: number) {
    this.channels = channels;
    this.startsAt = startsAt;
    this.step = step;
    this.held = Array.from({ length: channels }, () => new Float32Array(HALF));
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
    const ready = Math.max(0, ceil((end - HALF - this.startsAt) / this.step - this.made));
    return this.make(Math.max(0, Math.min(ready, mostInAll - this.made)));
  }

  /** Returns the rest, so that there are so many frames of the new sound in all: silence where the old one has ended. */
  flush(inAll: number, mostAtOnce: number): Float32Array[] {
    const count = Math.min(mostAtOnce, inAll - this.made);
    if (count <= 0) return this.make(0);
    const needed = ceil(this.startsAt + (this.made + count) * this.step) + HALF + 1;
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
    const from = floor(this.startsAt + this.made * this.step) - HALF;
    const spare = Math.min(this.held[0].length, Math.max(0, from - this.heldFrom));
    this.held = this.held.map((plane) => plane.slice(spare));
    this.heldFrom += spare;
    return made;
  }

  private interpolated(old: Float32Array, count: number): Float32Array {
    const made = new Float32Array(count);
    for (let i = 0; i < count; i++) {
      const at = this.startsAt + (this.made + i) * this.step - this.heldFrom;
      const whole = floor(at);
      const place = (at - whole) * PHASES;
      const phase = floor(place);
      const share = place - phase;
      const first = whole - HALF + 1;
      if (first + 2 * HALF <= 0 || first >= old.length) continue;
      const row = phase * 2 * HALF;
      let sum = 0;
      for (let tap = 0; tap < 2 * HALF; tap++) {
        const sample = old[first + tap];
        if (sample === undefined) continue;
        const weight = WEIGHTS[row + tap];
        sum += sample * (weight + share * (WEIGHTS[row + 2 * HALF + tap] - weight));
      }
      made[i] = sum;
    }
    return made;
  }
}
