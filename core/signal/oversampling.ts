const { abs, max, PI, sin, sqrt } = Math;

/** The point halfway between two samples is computed from so many samples, half of them on each side. */
export const HALF_TAPS = 128;
/** The other points are computed from samples and halfway points near by: so many of each, those of one point after the other. */
export const NEAR_SAMPLES = 6;
export const NEAR_HALVES = 7;
/** Eighths of a sample at which points are computed beside the one halfway. */
const EIGHTHS = [1, 2, 3, 5, 6, 7];
export const FINE_POINTS = EIGHTHS.length;
/** The shapes of the windows: images lie 55 and 80 dB below the sound (Kaiser, 1974). */
const HALF_BETA = 5;
const FINE_BETA = 8;

/** How many samples before a point are looked at, the one before it included; and how many after it. */
export const SAMPLES_BEFORE = HALF_TAPS / 2 + (NEAR_HALVES - 1) / 2;
export const SAMPLES_AFTER = SAMPLES_BEFORE + 1;

/**
 * Eight-times oversampling in two steps: a long filter gives the points halfway between samples, nearly up to half the rate, since white noise
 * has its peaks from all of it; short ones give three more on each side of those. ITU-R BS.1770-5 Annex 2 asks for four times the rate at
 * least, and gives filters of twelve taps as an example: those read white noise 1 to 1.5 dB too low.
 * The tap of the oldest sample comes first.
 */
export const HALF_FILTER: Float64Array = normalised(
  Float64Array.from({ length: HALF_TAPS }, (_, tap) => {
    const distance = tap - (HALF_TAPS / 2 - 1) - 0.5;
    return sinc(distance) * kaiser(distance / (HALF_TAPS / 2), HALF_BETA);
  }),
);

/** For each further point the taps of the samples, then those of the halfway points, each with the oldest first. */
export const FINE_FILTERS: readonly Float64Array[] = EIGHTHS.map((eighths) => {
  const fraction = eighths / 8;
  const tapAt = (place: number) => {
    const distance = 2 * (place - fraction);
    return sinc(distance) * kaiser(distance / (NEAR_HALVES + 1), FINE_BETA);
  };
  const samples = Array.from({ length: NEAR_SAMPLES }, (_, tap) => tapAt(tap - (NEAR_SAMPLES / 2 - 1)));
  const halves = Array.from({ length: NEAR_HALVES }, (_, tap) => tapAt(tap - (NEAR_HALVES - 1) / 2 + 0.5));
  return normalised(Float64Array.from([...samples, ...halves]));
});

/** No point beside a halfway one can exceed the largest of the samples and halfway points near by by more than this. */
export const FINE_HEADROOM = max(...FINE_FILTERS.map(magnitudeOf));

/** No point can exceed the largest of the samples that it is computed from by more than this. */
export const HEADROOM = (() => {
  const half = magnitudeOf(HALF_FILTER);
  const fine = FINE_FILTERS.map(
    (taps) => magnitudeOf(taps.subarray(0, NEAR_SAMPLES)) + half * magnitudeOf(taps.subarray(NEAR_SAMPLES)),
  );
  return max(half, ...fine);
})();

function magnitudeOf(taps: Float64Array): number {
  return taps.reduce((sum, tap) => sum + abs(tap), 0);
}

function normalised(taps: Float64Array): Float64Array {
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return taps.map((tap) => tap / sum);
}

function sinc(x: number): number {
  return x === 0 ? 1 : sin(PI * x) / (PI * x);
}

/** The window at −1 to 1. */
function kaiser(x: number, beta: number): number {
  return bessel(beta * sqrt(max(0, 1 - x * x))) / bessel(beta);
}

/** The modified Bessel function of the first kind and order zero, by its power series. */
function bessel(x: number): number {
  let term = 1;
  let sum = 1;
  for (let k = 1; term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}
