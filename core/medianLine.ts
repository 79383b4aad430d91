import { median } from './median.ts';

/** A value at some place. */
export interface LinePoint {
  at: number;
  value: number;
}

/**
 * Returns the line through some points, so that single ones that are off do not matter: the median of the slopes between points that lie half of
 * them apart, and the median of what that leaves (Theil and Sen).
 */
export function medianLine(points: readonly LinePoint[]): { slope: number; atZero: number } {
  const sorted = [...points].sort((a, b) => a.at - b.at);
  const half = Math.floor(sorted.length / 2);
  const slopes = sorted.slice(half).flatMap((later, index) => {
    const apart = later.at - sorted[index].at;
    return apart > 0 ? [(later.value - sorted[index].value) / apart] : [];
  });
  const slope = slopes.length > 0 ? median(slopes) : 0;
  return { slope, atZero: median(sorted.map(({ at, value }) => value - slope * at)) };
}
