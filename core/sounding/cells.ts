import type { CodeArrival } from './arrivals.ts';
import { around, READ_RATE } from './periods.ts';
import { withoutReflections } from './reflections.ts';

const { abs, hypot, log10, max, min } = Math;

/** How a source lies on the channels of a track. */
export type Lie =
  | 'both sides'
  | 'swapped'
  | 'folded to mono'
  | 'left only'
  | 'right only'
  | 'one side inverted'
  | 'one channel';

/** What was read of one source on one track. */
export interface MeasuredCell {
  source: string;
  /** Counted from zero. */
  track: number;
  gainDb: number;
  /** Later than the first arrival of the source on any track (ms). */
  delayMs: number;
  polarity: 1 | -1;
  /** How many times it arrives. */
  copies: number;
  channels: Lie;
}

/** Sides of one arrival lie within so many frames. */
export const SAME_ARRIVAL = 6;
/** A copy counts down to this much below the loudest one of its cell; what is nearer and quieter is the tail of a filter. */
const LEAST_COPY = 10 ** (-40 / 20);
/** A side counts down to this share of the louder one: what is under it comes from lossy coding. */
const LEAST_SIDE = 0.05;
/** A side is inverted against another one where it has this share of the louder one: less is how an effect widens a sound. */
const LEAST_INVERTED = 0.5;

/** One arrival of a code of a source on a channel of a track. */
export interface SideArrival extends CodeArrival {
  channel: number;
  side: number;
  /** By which clock it came: see {@link Players}. */
  player: number;
}

/** What was read of a source on each track that it arrives on. @param channels how many each track has @param sides how many of the source carry a code */
export function cellsOf(
  source: string,
  perTrack: SideArrival[][],
  channels: number[],
  sides: number,
): MeasuredCell[] {
  const strongest = perTrack
    .flat()
    .reduce<SideArrival | null>((best, one) => (best && abs(best.gain) >= abs(one.gain) ? best : one), null);
  if (!strongest) return [];
  const found = perTrack.flatMap((arrivals, track) => {
    const copies = copiesOf(arrivals, strongest.lag);
    const [loudest] = copies;
    if (!loudest) return [];
    const counted = withoutReflections(copies.filter(({ gain }) => gain >= LEAST_COPY * loudest.gain));
    return [
      {
        source,
        track,
        gainDb: 20 * log10(hypot(...counted.map(({ gain }) => gain))),
        lag: loudest.lag,
        first: min(...counted.map(({ lag }) => lag)),
        polarity: loudest.polarity,
        copies: counted.length,
        channels: lieOf(loudest.arrivals, channels[track], sides),
      },
    ];
  });
  const first = min(...found.map((one) => one.first));
  return found.map(({ lag, first: _, ...cell }) => ({
    ...cell,
    delayMs: (1000 * (lag - first)) / READ_RATE,
  }));
}

/** One arrival of a source on a track: all of its sides on all channels, at one time. */
interface Copy {
  /** Against the arrival that delays are counted from (frames). */
  lag: number;
  gain: number;
  polarity: 1 | -1;
  arrivals: SideArrival[];
}

function copiesOf(arrivals: SideArrival[], zero: number): Copy[] {
  const groups: { lag: number; arrivals: SideArrival[] }[] = [];
  for (const arrival of [...arrivals].sort((a, b) => abs(b.gain) - abs(a.gain))) {
    const lag = around(arrival.lag - zero);
    const group = groups.find(
      (one) => one.arrivals[0].player === arrival.player && abs(one.lag - lag) <= SAME_ARRIVAL,
    );
    if (group) group.arrivals.push(arrival);
    else groups.push({ lag, arrivals: [arrival] });
  }
  // The group that the loudest arrival made comes first: in faint ones, sides differ by chance.
  const isInverted = groups.length > 0 && hasInvertedSide(groups[0].arrivals);
  return groups
    .map(({ lag, arrivals: of }) => ({ lag, arrivals: of, ...loudnessOf(of, isInverted) }))
    .sort((a, b) => b.gain - a.gain);
}

/**
 * What a sound that is alike on both sides would be turned up by: on each channel the sides add up, and the louder channel counts. Where a side is
 * inverted, it is what either side is turned up by; then the left channel says which way round it is.
 */
function loudnessOf(arrivals: SideArrival[], isInverted: boolean): { gain: number; polarity: 1 | -1 } {
  const byChannel = new Map<number, number>();
  for (const { channel, gain } of arrivals)
    byChannel.set(channel, (byChannel.get(channel) ?? 0) + (isInverted ? abs(gain) : gain));
  const sums = [...byChannel.values()];
  const loudest = sums.reduce((best, sum) => (abs(sum) > abs(best) ? sum : best), 0);
  const first = isInverted
    ? [...arrivals].sort((a, b) => a.channel - b.channel || a.side - b.side)[0].gain
    : loudest;
  return { gain: abs(loudest), polarity: first < 0 ? -1 : 1 };
}

/** Tells whether sides of a sound came with opposite polarities: each by its loudest arrival on a channel. */
function hasInvertedSide(arrivals: SideArrival[]): boolean {
  const gains = new Map<string, number>();
  for (const { side, channel, gain } of arrivals) {
    const key = `${side} ${channel}`;
    if (abs(gain) > abs(gains.get(key) ?? 0)) gains.set(key, gain);
  }
  const all = [...gains.values()];
  const loudest = all.reduce((best, gain) => (abs(gain) > abs(best) ? gain : best), 0);
  return all.some((gain) => gain * loudest < 0 && abs(gain) >= LEAST_INVERTED * abs(loudest));
}

function lieOf(arrivals: SideArrival[], channels: number, sides: number): Lie {
  if (hasInvertedSide(arrivals)) return 'one side inverted';
  if (channels === 1) return 'one channel';
  const loudest = max(...arrivals.map(({ gain }) => abs(gain)));
  const has = (side: number, channel: number) =>
    arrivals.some(
      (one) => one.side === side && one.channel === channel && abs(one.gain) >= LEAST_SIDE * loudest,
    );
  const onLeft = has(0, 0) || has(1, 0);
  const onRight = has(0, 1) || has(1, 1);
  if (!onRight) return 'left only';
  if (!onLeft) return 'right only';
  if (sides === 1) return 'both sides';
  const straight = has(0, 0) || has(1, 1);
  const crossed = has(0, 1) || has(1, 0);
  if (straight && crossed) return 'folded to mono';
  return crossed ? 'swapped' : 'both sides';
}
