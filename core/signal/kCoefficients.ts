import type { Coefficients } from './biquad.ts';

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
