/** Pictures a second that recorders and cameras work at, in so many parts of another number of seconds. */
const RATES: readonly (readonly [pictures: number, seconds: number])[] = [
  ...[24, 25, 30, 48, 50, 60, 72, 75, 90, 100, 120, 144, 240].map((rate) => [rate, 1] as const),
  ...[24, 30, 48, 60, 120].map((rate) => [rate * 1000, 1001] as const),
];
/** Of so many pictures each is looked at; of fewer nothing is said. */
export const LOOKED_AT = 600;
const LEAST = 60;
/** Times that are rounded to the millisecond lie within so much (s) of each other beside their pace. */
const ROUNDED_S = 0.00105;

/**
 * Tells how long each picture lasts (s) where they come evenly and their times are rounded to the millisecond; null where they come unevenly, or at a
 * rate that nobody works at.
 * @param times when they are shown (s), in any order
 */
export function paceOf(times: readonly number[]): number | null {
  if (times.length < LEAST) return null;
  for (const [pictures, seconds] of RATES) {
    const frameS = seconds / pictures;
    const off = times.map((time) => {
      const frames = (time - times[0]) / frameS;
      return (frames - Math.round(frames)) * frameS;
    });
    if (Math.max(...off) - Math.min(...off) <= ROUNDED_S && areApart(times, frameS)) return frameS;
  }
  return null;
}

/** Tells whether each picture has a time of its own in a pace, and nearly none is missing: twice the pace fits as well. */
function areApart(times: readonly number[], frameS: number): boolean {
  const frames = new Set(times.map((time) => Math.round((time - times[0]) / frameS)));
  const span = Math.max(...frames) - Math.min(...frames) + 1;
  return frames.size === times.length && span < 1.5 * times.length;
}
