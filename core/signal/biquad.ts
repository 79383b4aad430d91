const { abs, cos, PI, sin, sqrt } = Math;

/** The coefficients of a second-order section, normalised to a0 = 1. */
export interface Coefficients {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

export type FilterShape = 'high-pass' | 'low-shelf' | 'bell' | 'high-shelf';

/**
 * Returns the coefficients of a filter. Source: R. Bristow-Johnson, Audio EQ Cookbook (W3C Note, 2021).
 * @param hz corner, or middle of a bell
 * @param q 0.7071 for a maximally flat high-pass
 * @param gainDb of bells and shelves
 */
export function coefficientsOf(
  shape: FilterShape,
  hz: number,
  q: number,
  gainDb: number,
  sampleRate: number,
): Coefficients {
  const w = (2 * PI * hz) / sampleRate;
  const c = cos(w);
  const alpha = sin(w) / (2 * q);
  const a = 10 ** (gainDb / 40);
  if (shape === 'high-pass') {
    return normalised((1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + alpha, -2 * c, 1 - alpha);
  }
  if (shape === 'bell') {
    return normalised(1 + alpha * a, -2 * c, 1 - alpha * a, 1 + alpha / a, -2 * c, 1 - alpha / a);
  }
  const side = shape === 'low-shelf' ? 1 : -1;
  const slope = 2 * sqrt(a) * alpha;
  return normalised(
    a * (a + 1 - side * (a - 1) * c + slope),
    side * 2 * a * (a - 1 - side * (a + 1) * c),
    a * (a + 1 - side * (a - 1) * c - slope),
    a + 1 + side * (a - 1) * c + slope,
    -side * 2 * (a - 1 + side * (a + 1) * c),
    a + 1 + side * (a - 1) * c - slope,
  );
}

function normalised(b0: number, b1: number, b2: number, a0: number, a1: number, a2: number): Coefficients {
  return { b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: a1 / a0, a2: a2 / a0 };
}

/** The gain (dB) of a section at a frequency. */
export function responseDb({ b0, b1, b2, a1, a2 }: Coefficients, hz: number, sampleRate: number): number {
  const w = (2 * PI * hz) / sampleRate;
  const power = (x0: number, x1: number, x2: number) => {
    const re = x0 + x1 * cos(w) + x2 * cos(2 * w);
    const im = x1 * sin(w) + x2 * sin(2 * w);
    return re * re + im * im;
  };
  return 10 * Math.log10(power(b0, b1, b2) / power(1, a1, a2));
}

/** Keeps a decaying filter out of the slow subnormal range. */
export function flushed(value: number): number {
  return abs(value) < 1e-30 ? 0 : value;
}

/** A second-order filter of one channel (transposed direct form II); its state lives as long as the object. */
export class Biquad {
  private readonly section: Coefficients;
  private s1 = 0;
  private s2 = 0;

  constructor(section: Coefficients) {
    this.section = section;
  }

  /** Tells whether silence comes out as long as silence goes in. */
  get isAtRest(): boolean {
    return this.s1 === 0 && this.s2 === 0;
  }

  /** Filters samples in place, from index `start` up to `end`. */
  process(samples: Float32Array, start: number, end: number): void {
    const { b0, b1, b2, a1, a2 } = this.section;
    let s1 = this.s1;
    let s2 = this.s2;
    for (let i = start; i < end; i++) {
      const x = samples[i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      samples[i] = y;
    }
    this.s1 = flushed(s1);
    this.s2 = flushed(s2);
  }
}
