import type { LeakInterval } from '../check/verification.ts';
import { median } from '../median.ts';
import { medianLine } from '../medianLine.ts';

/** How the time of one recording lies in that of another: it is later by `offsetS` at the start of the other, and by so much more a second. */
export interface ClockLine {
  offsetS: number;
  /** Parts per million. */
  driftPpm: number;
  /** How long both were heard together (s), and over which stretch of the other. */
  heardS: number;
  spanS: number;
  /** What was heard lies off the line by no more than this (s), but for a tenth of it. */
  offS: number;
}

/** Where it was heard, and when. */
export type Heard = Pick<LeakInterval, 'startS' | 'endS' | 'offsetMs' | 'driftPpm'>;

/** What lies this near to the line is of one clock (s). */
const NEAR_S = 0.05;
/** Less than this is too little to lay two recordings together (s). */
const LEAST_HEARD_S = 8;
/** Without places this far apart nothing is known of the drift (s). */
const LEAST_SPAN_S = 30;
/** A stretch counts once for so much of it (s). */
const POINT_S = 5;

/**
 * Finds how one recording lies in another, from the stretches in which it was heard there: the line that most of them lie on. Offsets are those
 * in the middle of each stretch.
 * @returns null where they were not heard together for long enough
 */
export function clockLine(heard: Heard[]): ClockLine | null {
  let most: Heard[] = [];
  for (const seed of heard) {
    const drift = (seed.driftPpm ?? 0) / 1e6;
    const offsetAt = (atS: number) => seed.offsetMs / 1000 + drift * (atS - middleOf(seed));
    const together = heard.filter((one) => Math.abs(one.offsetMs / 1000 - offsetAt(middleOf(one))) <= NEAR_S);
    if (lengthOf(together) > lengthOf(most)) most = together;
  }
  return lengthOf(most) >= LEAST_HEARD_S ? lineThrough(most) : null;
}

/** For how long something was heard in all (s). */
function lengthOf(heard: Heard[]): number {
  return heard.reduce((sum, { startS, endS }) => sum + endS - startS, 0);
}

function lineThrough(heard: Heard[]): ClockLine {
  // A long stretch says more than a short one: its ends lie where its own drift has them, and it counts once for every so many seconds.
  const points = heard.flatMap((one) => {
    const drift = (one.driftPpm ?? 0) / 1e6;
    const count = Math.max(1, Math.round((one.endS - one.startS) / POINT_S));
    return Array.from({ length: count }, (_, i) => {
      const at = one.startS + ((i + 0.5) * (one.endS - one.startS)) / count;
      return { at, value: one.offsetMs / 1000 + drift * (at - middleOf(one)) };
    });
  });
  const spanS = Math.max(...heard.map(({ endS }) => endS)) - Math.min(...heard.map(({ startS }) => startS));
  const { slope, atZero } =
    spanS >= LEAST_SPAN_S
      ? medianLine(points)
      : { slope: 0, atZero: median(points.map(({ value }) => value)) };
  const off = points.map(({ at, value }) => Math.abs(value - atZero - slope * at)).sort((a, b) => a - b);
  return {
    offsetS: atZero,
    driftPpm: slope * 1e6,
    heardS: lengthOf(heard),
    spanS,
    offS: off[Math.min(off.length - 1, Math.floor(off.length * 0.9))] ?? 0,
  };
}

function middleOf({ startS, endS }: Heard): number {
  return (startS + endS) / 2;
}
