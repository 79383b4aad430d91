import { around, READ_RATE } from './periods.ts';

const { abs } = Math;

/** A microphone hears through the air: more copies than this are what walls and desks send back. */
const MOST_WAYS = 3;
/** Beside reflections, a copy is another way only where it has this share of the loudest (−10 dB), … */
const WAY_SHARE = 10 ** (-10 / 20);
/** … and comes so much earlier or later than a louder one (2.5 ms): what a desk sends back comes sooner. */
const WAY_FRAMES = 0.0025 * READ_RATE;

/**
 * Tells the ways that a sound takes to a track from the reflections of the room in which a microphone heard it.
 * @param copies of one sound, the loudest first
 * @returns those that are ways of their own; all of them where they are few
 */
export function withoutReflections<Copy extends { lag: number; gain: number }>(copies: Copy[]): Copy[] {
  if (copies.length <= MOST_WAYS) return copies;
  const ways: Copy[] = [];
  for (const copy of copies) {
    const isLoud = copy.gain >= WAY_SHARE * copies[0].gain;
    if (isLoud && ways.every(({ lag }) => abs(around(lag - copy.lag)) >= WAY_FRAMES)) ways.push(copy);
  }
  return ways;
}
