import { type CodeSight, SAME_FRAMES } from './arrivals.ts';
import { around, READ_RATE } from './periods.ts';
import type { Code, PeriodSound, PeriodSpectra } from './spectra.ts';

const { abs, max, round } = Math;

/** When a code arrives (see {@link CodeSight}), and how loud. */
type Copy = Pick<CodeSight, 'lag' | 'gain'>;

/** What is done to a sound on its way is seen in bins of 33 Hz: copies that lie this close (60 ms) look like that. */
const CLOSE_FRAMES = round(0.06 * READ_RATE);
/** Only copies that have this share of the loudest are close enough in loudness to be taken for a colour. */
const ALIKE_SHARE = 0.1;
const MOST_COPIES = 8;
/** Each is fitted again so many times with all others taken out. */
const FITS = 4;

/** Tells whether arrivals of one code may have been taken for each other's colour. */
export function areTangled(arrivals: readonly Copy[]): boolean {
  const loudest = max(...arrivals.map(({ gain }) => abs(gain)));
  const loud = arrivals.filter(({ gain }) => abs(gain) >= ALIKE_SHARE * loudest);
  return loud.some((a) => loud.some((b) => a !== b && abs(around(a.lag - b.lag)) <= CLOSE_FRAMES));
}

/**
 * Finds the copies of a code. Two of nearly the same level, close together, make a comb of the spectrum, and weights that even it out turn them into
 * a row of others (an inverse filter). So the weights are those of what is left without the code; since some of it may be left still, nothing
 * counts as quieter than the code itself.
 * @param gain how loud the code is (as a factor)
 * @param left what is left where the code was taken out, well or badly
 * @param lags overwritten; see {@link PeriodSpectra.newPeriod}
 * @returns the copies down to a tenth of the loudest
 */
export function copiesIn(
  spectra: PeriodSpectra,
  code: Code,
  { whole, left, gain }: { whole: PeriodSound; left: PeriodSound; gain: number },
  lags: Float32Array,
): Copy[] {
  const power = gain ** 2 * spectra.meanPower(code);
  const weights = left.weights.map((weight) => (weight > 0 ? 1 / (1 / weight + power) : 0));
  const copies: Copy[] = [];
  let rest: PeriodSound = { sound: whole.sound, weights };
  while (copies.length < MOST_COPIES) {
    spectra.correlate(rest, code, lags);
    const at = spectra.highest(lags);
    const loudest = max(0, ...copies.map(({ gain }) => abs(gain)));
    if (abs(lags[at]) < ALIKE_SHARE * loudest || lags[at] === 0) break;
    if (copies.some(({ lag }) => abs(around(lag - at)) <= SAME_FRAMES)) break;
    const copy = spectra.fit(rest, code, at);
    copies.push(copy);
    rest = spectra.without(rest, code, copy);
    for (let again = 0; again < FITS && copies.length > 1; again++)
      for (const [index, { lag, gain }] of copies.entries()) {
        const alone = spectra.without(rest, code, { lag, gain: -gain });
        copies[index] = spectra.fit(alone, code, lag);
        rest = spectra.without(alone, code, copies[index]);
      }
  }
  return copies;
}
