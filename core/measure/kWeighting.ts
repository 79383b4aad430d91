import { type Coefficients, flushed } from '../signal/biquad.ts';

/**
 * Returns the two sections of the K-weighting for any sample rate (Hz), by the bilinear transform of the analogue
 * prototypes. Source: ITU-R BS.1770-5 Annex 1, whose 48 kHz tables these reproduce.
 */
export function kWeightingFor(sampleRate: number): [shelf: Coefficients, highPass: Coefficients] {
  return [shelf(sampleRate), highPass(sampleRate)];
}

function shelf(sampleRate: number): Coefficients {
  const k = Math.tan((Math.PI * 1681.974450955533) / sampleRate);
  const q = 0.7071752369554196;
  const high = 10 ** (3.999843853973347 / 20);
  const band = high ** 0.4996667741545416;
  const a0 = 1 + k / q + k * k;
  return {
    b0: (high + (band * k) / q + k * k) / a0,
    b1: (2 * (k * k - high)) / a0,
    b2: (high - (band * k) / q + k * k) / a0,
    a1: (2 * (k * k - 1)) / a0,
    a2: (1 - k / q + k * k) / a0,
  };
}

function highPass(sampleRate: number): Coefficients {
  const k = Math.tan((Math.PI * 38.13547087602444) / sampleRate);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return { b0: 1, b1: -2, b2: 1, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 };
}

/** K-weights one channel into another plane; the filter state lives as long as the object. */
export class KWeighting {
  private readonly shelf: Coefficients;
  private readonly highPass: Coefficients;
  private readonly state = new Float64Array(4);

  constructor(sampleRate: number) {
    [this.shelf, this.highPass] = kWeightingFor(sampleRate);
  }

  /** Weights `frames` samples from `start` on into the beginning of `out`; returns the sum of their squares. */
  process(samples: Float32Array, start: number, frames: number, out: Float32Array): number {
    const { b0, b1, b2, a1, a2 } = this.shelf;
    const { a1: c1, a2: c2 } = this.highPass;
    const state = this.state;
    let s1 = state[0];
    let s2 = state[1];
    let h1 = state[2];
    let h2 = state[3];
    let power = 0;
    for (let i = 0; i < frames; i++) {
      const x = samples[start + i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      const z = y + h1;
      h1 = h2 - 2 * y - c1 * z;
      h2 = y - c2 * z;
      out[i] = z;
      power += z * z;
    }
    state[0] = flushed(s1);
    state[1] = flushed(s2);
    state[2] = flushed(h1);
    state[3] = flushed(h2);
    return power;
  }
}
