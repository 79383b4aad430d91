import type { CodeChange } from './arrivals.ts';
import { type ClockGroup, retimed } from './byClock.ts';
import type { ChannelReader, ChannelReading } from './channel.ts';
import type { Stretch } from './stretch.ts';

const { abs, max } = Math;

/** One track of a recording: its channels at 48 kHz, and whether they were coded with loss. */
export interface CodedTrack {
  channels: Float32Array[];
  isLossy: boolean;
}

/** A channel, and what was read of it. */
export interface ReadChannel extends Distinct, Omit<ChannelReading, 'changes'> {
  /** What is left of the channel, brought to the clock of a source. */
  restFor: (source: number) => Float32Array;
  /** What is left of the channel when all is taken out that was read of some sources, by the recorder's clock. */
  without: (isOfThem: (change: CodeChange) => boolean) => Float32Array;
}

/**
 * Reads a channel by one clock after the other, the loudest first. Codes of another clock can look like quiet ones, so with several clocks the
 * loud codes of all are taken out first, and the quiet ones are read afterwards.
 * @param clocks each with how loud its codes are on the channel, as far as that is known
 */
export function readChannel(
  reader: ChannelReader,
  { samples, isLossy }: Distinct,
  stretches: (Stretch | null)[],
  clocks: { group: ClockGroup; loudest: number }[],
): Omit<ReadChannel, keyof Distinct> {
  const inUse = clocks.filter(({ group }) => group.sources.size > 0).sort((a, b) => b.loudest - a.loudest);
  const groups = inUse.map(({ group }) => group);
  const heard = inUse.filter(({ loudest }) => loudest > 0).map(({ group }) => group);
  const readings = new Map<ClockGroup, ChannelReading & { rest: Float32Array }>();
  let rest = samples;
  let drift = 0;
  for (const isRough of groups.length > 1 ? [true, false] : [false])
    for (const group of isRough ? heard : groups) {
      rest = retimed(rest, drift, group.drift);
      drift = group.drift;
      const before = readings.get(group);
      const elsewhere = [...readings].flatMap(([one, { arrivals }]) => (one === group ? [] : arrivals));
      const part = {
        sources: group.sources,
        known: before ? [...before.arrivals, ...before.faint] : [],
        loudestElsewhere: max(0, ...elsewhere.map(({ gain }) => abs(gain))),
        isRough,
        isAmongClocks: groups.length > 1,
      };
      const reading = reader.read(rest, stretches, isLossy, part);
      const changes = [...(before?.changes ?? []), ...reading.changes];
      readings.set(group, { ...reading, changes, rest });
    }
  const all = [...readings.values()];
  return {
    arrivals: all.flatMap(({ arrivals }) => arrivals),
    faint: all.flatMap(({ faint }) => faint),
    isWhole: all.every(({ isWhole }) => isWhole),
    restFor: (source) =>
      readings.get(groups.find(({ sources }) => sources.has(source)) ?? groups[0])?.rest ?? rest,
    without: (isOfThem) => {
      let [left, by] = [rest, drift];
      // What was done for other sources is undone, each by the clock by which it was done: by another one it would seem to run on that.
      for (const [{ drift: own }, { changes }] of readings) {
        const others = changes.filter((one) => !isOfThem(one));
        if (others.length === 0) continue;
        left = retimed(left, by, own);
        by = own;
        reader.undo(left, others);
      }
      return retimed(left, by, 0);
    },
  };
}

/** What some channels of the tracks carry. */
export interface Distinct {
  samples: Float32Array;
  isLossy: boolean;
  of: [track: number, channel: number][];
}

/** Channels with the same samples are read once; empty ones not at all. */
export function distinctChannels(tracks: CodedTrack[]): Distinct[] {
  const distinct: Distinct[] = [];
  tracks.forEach(({ channels, isLossy }, track) => {
    channels.forEach((samples, channel) => {
      const same = distinct.find((one) => isSame(one.samples, samples));
      if (same) same.of.push([track, channel]);
      else if (samples.some((value) => value !== 0))
        distinct.push({ samples, isLossy, of: [[track, channel]] });
    });
  });
  return distinct;
}

function isSame(a: Float32Array, b: Float32Array): boolean {
  return a === b || (a.length === b.length && a.every((value, i) => value === b[i]));
}
