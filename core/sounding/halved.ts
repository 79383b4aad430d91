const { cos, PI, sin } = Math;

/** A windowed sinc (Blackman) that halves the band: of its taps on each side, every second is nought. Flat up to 10.5 kHz of 48. */
const SIDE_TAPS = 48;
const TAPS = Float32Array.from({ length: SIDE_TAPS / 2 }, (_, i) => {
  const at = 2 * i + 1;
  const window = 0.42 + 0.5 * cos((PI * at) / SIDE_TAPS) + 0.08 * cos((2 * PI * at) / SIDE_TAPS);
  return (window * sin((PI * at) / 2)) / (PI * at);
});

/** Returns a sound at half of its rate, without what that cannot carry (Crochiere and Rabiner, Multirate Digital Signal Processing, section 5.3). */
export function halved(samples: Float32Array): Float32Array {
  const length = Math.ceil(samples.length / 2);
  const out = new Float32Array(length);
  // Every other frame is only ever met by the middle tap, or only by the others.
  const odd = new Float32Array(length + SIDE_TAPS);
  for (let i = 0; 2 * i + 1 < samples.length; i++) odd[i + SIDE_TAPS / 2] = samples[2 * i + 1];
  for (let i = 0; i < length; i++) {
    let sum = 0.5 * samples[2 * i];
    const after = i + SIDE_TAPS / 2;
    for (let tap = 0; tap < SIDE_TAPS / 2; tap++)
      sum += TAPS[tap] * (odd[after + tap] + odd[after - 1 - tap]);
    out[i] = sum;
  }
  return out;
}
