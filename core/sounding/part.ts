import type { CodeArrival } from './arrivals.ts';

/** What is quieter than this (−63 dB), or than this share of the loudest on its channel, is not read. */
export const QUIETEST = 3.5e-4;
const QUIETEST_SHARE = 3.5e-4;
/** Lossy coding leaves its own traces: on such a channel the share is this (−46 dB). */
const QUIETEST_LOSSY = 5e-3;
/** Traces of codes of other clocks can look like quiet codes, so with several clocks the share is this (−52 dB). */
const QUIETEST_AMONG_CLOCKS = 2.5e-3;
/** While codes of other clocks are still in the samples, the share is this (−20 dB). */
const ROUGH_SHARE = 0.1;

/** Which codes of a channel are read, where sources run on several clocks. */
export interface PartRead {
  /** Whose codes are looked for; null for all. */
  sources?: ReadonlySet<number> | null;
  /** Arrivals that were read on this channel before and taken out of the samples. */
  known?: CodeArrival[];
  /** The gain of the loudest code of another clock on this channel, as far as it is known (as a factor). */
  loudestElsewhere?: number;
  /** Reads loud codes only, because codes of other clocks that are still in the samples can look like quiet ones. */
  isRough?: boolean;
  /** Whether codes of several clocks are on the channels. */
  isAmongClocks?: boolean;
}

/** The share of the loudest code on its channel that an arrival has at least. */
export function leastShare(isLossy: boolean, { isRough, isAmongClocks }: PartRead): number {
  if (isRough) return ROUGH_SHARE;
  if (isLossy) return QUIETEST_LOSSY;
  return isAmongClocks ? QUIETEST_AMONG_CLOCKS : QUIETEST_SHARE;
}
