import { type MakeFft, withFft } from '../measure/fft.ts';
import type { CodeChange } from './arrivals.ts';
import { cellsOf, type MeasuredCell, SAME_ARRIVAL, type SideArrival } from './cells.ts';
import { ChannelReader, type ChannelReading } from './channel.ts';
import { type ClockGroup, ClockReader, retimed } from './clocks.ts';
import { type CodeSides, codeNames } from './code.ts';
import { Halver } from './halver.ts';
import { around, PERIOD, READ_RATE } from './periods.ts';
import { type Code, PeriodSpectra } from './spectra.ts';
import type { Stretch } from './stretch.ts';

const { abs, max } = Math;

/** A source that was played, with the sides that carry a code. */
export interface CodedSource {
  id: string;
  sides: CodeSides;
}

/** A source that was heard on some track. */
export interface HeardSource {
  source: string;
  /** When it began and ended (s). */
  fromS: number;
  toS: number;
  /** How much faster its clock runs than the recorder's (ppm). */
  driftPpm: number;
}

export interface ReadSounding {
  cells: MeasuredCell[];
  /** The sources that were heard on some track. */
  heard: HeardSource[];
  unheard: string[];
}

const DECOYS = 8;
/** Clocks of hidden sources are looked for this many times, each time with all that is known taken out. */
const MOST_TURNS = 5;
/** One track of a recording: its channels at 48 kHz, and whether they were coded with loss. */
export interface CodedTrack {
  channels: Float32Array[];
  isLossy: boolean;
}

/** Reads a recording of codes: which source arrives on which track, and how. */
export async function readSounding(
  tracks: CodedTrack[],
  sources: CodedSource[],
  onProgress: (share: number) => void = () => {},
): Promise<ReadSounding> {
  return withFft((makeFft) => readWith(makeFft, tracks, sources, onProgress));
}

function readWith(
  makeFft: MakeFft,
  tracks: CodedTrack[],
  sources: CodedSource[],
  onProgress: (share: number) => void,
): ReadSounding {
  const halver = new Halver(makeFft);
  const channels = distinctChannels(tracks).map((one) => ({ ...one, samples: halver.halved(one.samples) }));
  const spectra = new PeriodSpectra(makeFft, {
    codes: 2 * sources.length + DECOYS,
    frames: max(PERIOD, ...channels.map(({ samples }) => samples.length)),
  });
  const codes = sources.flatMap(({ id, sides }, source) =>
    codeNames(id, sides).map((name, side) => ({ ...spectra.codeNamed(name, source), side })),
  );
  const decoys = Array.from({ length: DECOYS }, (_, i) => spectra.codeNamed(`nobody/${i}`, -1));
  const reader = new ChannelReader(spectra, codes, decoys);
  const clocks = new ClockReader(makeFft, spectra, decoys);
  // A source whose clock cannot be read counts as running on the recorder's.
  const groups: ClockGroup[] = [{ drift: 0, sources: new Set(sources.keys()) }];
  const { read: known } = clocks.assign(
    channels.map(({ samples }) => samples),
    codes,
    groups,
  );
  const stretches: (Stretch | null)[] = sources.map(() => null);
  let shareDone = 0;
  const readOne = (one: Distinct, at: number, most: number) => {
    const on = groups.map((group) => ({ group, loudest: clocks.loudestOn(at, group) }));
    const reading = readChannel(reader, one, stretches, on);
    shareDone += (most - shareDone) / (2 * channels.length);
    onProgress(shareDone);
    return { ...one, ...reading };
  };
  let read = channels.map((one, at): ReadChannel => readOne(one, at, 0.9));
  // A loud source of one clock hides quiet ones of another, which show once it is taken out.
  for (let turn = 0; turn < MOST_TURNS; turn++) {
    const knownBefore = known.size;
    const moved = assignHidden(clocks, read, codes, known, groups);
    // Of the more there is known, the less is left to hide others.
    if (moved.size === 0 && known.size === knownBefore) break;
    if (moved.size === 0) continue;
    for (const source of moved) stretches[source] = null;
    read = channels.map((one, at) => readOne(one, at, 0.9));
  }
  // What was read while it was not yet sure when a source sounds is read again.
  read = read.map((one, at) => {
    const isSure =
      one.isWhole &&
      one.arrivals.every(({ code, stretch }) => isSameStretch(stretch, stretches[codes[code].source]));
    return isSure ? one : readOne(channels[at], at, 1);
  });
  onProgress(1);
  const cells = sources.flatMap(({ id }, source) => {
    const own = codes.flatMap((code, index) =>
      code.source === source ? [{ code: index, side: code.side }] : [],
    );
    const stretch = stretches[source];
    const perTrack = tracks.map((one, track) => {
      const on = one.channels.map((_, channel) =>
        read.find(({ of }) => of.some(([t, c]) => t === track && c === channel)),
      );
      const found = on.flatMap((channel, index) =>
        (channel?.arrivals ?? []).flatMap((arrival): SideArrival[] => {
          const side = own.find(({ code }) => code === arrival.code)?.side;
          return side === undefined ? [] : [{ ...arrival, channel: index, side }];
        }),
      );
      return stretch ? [...found, ...fainter(reader, on, source, own, found, stretch)] : found;
    });
    return cellsOf(
      id,
      perTrack,
      tracks.map(({ channels }) => channels.length),
      own.length,
    );
  });
  const heard = sources.flatMap(({ id }, source) => {
    const stretch = stretches[source];
    if (!stretch || !cells.some((cell) => cell.source === id)) return [];
    const drift = groups.find((one) => one.sources.has(source))?.drift ?? 0;
    const [fromS, toS] = [stretch.from, stretch.to].map((frame) => frame / READ_RATE / (1 - drift));
    return [{ source: id, fromS, toS, driftPpm: drift === 0 ? 0 : -1e6 * drift }];
  });
  return {
    cells,
    heard,
    unheard: sources.map(({ id }) => id).filter((id) => !cells.some((cell) => cell.source === id)),
  };
}

/**
 * Reads the clocks of sources that louder ones hid, in what is left of the channels.
 * @param known the sources whose clocks are known; more are added
 * @returns the sources that were found to run on another clock than the one by which they were read
 */
function assignHidden(
  clocks: ClockReader,
  channels: ReadChannel[],
  codes: Code[],
  known: Set<number>,
  groups: ClockGroup[],
): Set<number> {
  const hidden = codes.filter(({ source }) => !known.has(source));
  if (hidden.length === 0) return new Set();
  const left = channels.map((channel) => channel.without(({ code }) => known.has(codes[code].source)));
  const { read, moved } = clocks.assign(left, hidden, groups);
  for (const source of read) known.add(source);
  const unread = hidden.filter(({ source }) => !known.has(source));
  if (groups.length > 1 && unread.length > 0)
    for (const source of clocks.assignKnown(left, unread, groups)) moved.add(source);
  return moved;
}

/** A channel, and what was read of it. */
interface ReadChannel extends Distinct, Omit<ChannelReading, 'changes'> {
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
function readChannel(
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

/** Tells whether two readings of when a source sounds come to the same: it arrives later on some channels. */
function isSameStretch(a: Stretch, b: Stretch | null): boolean {
  if (!b) return false;
  const later = around(b.lag - a.lag);
  return abs(b.from - a.from - later) <= SAME_ARRIVAL && abs(b.to - a.to - later) <= SAME_ARRIVAL;
}

/** The sides of an arrival that did not stand out by themselves, at the time of those that did. */
function fainter(
  reader: ChannelReader,
  channels: (ReadChannel | undefined)[],
  source: number,
  own: { code: number; side: number }[],
  found: SideArrival[],
  stretch: Stretch,
): SideArrival[] {
  const more: SideArrival[] = [];
  for (const { lag } of found)
    for (const [channel, on] of channels.entries())
      for (const { code, side } of own) {
        const isKnown = [...found, ...more].some(
          (one) => one.channel === channel && one.code === code && abs(around(one.lag - lag)) <= SAME_ARRIVAL,
        );
        if (isKnown || !on) continue;
        const faint = on.faint.find((one) => one.code === code && abs(around(one.lag - lag)) <= SAME_ARRIVAL);
        const gain = faint?.gain ?? reader.at(on.restFor(source), code, lag, stretch);
        if (gain !== null) more.push({ code, lag, gain, channel, side, stretch });
      }
  return more;
}

/** What some channels of the tracks carry. */
interface Distinct {
  samples: Float32Array;
  isLossy: boolean;
  of: [track: number, channel: number][];
}

/** Channels with the same samples are read once; empty ones not at all. */
function distinctChannels(tracks: CodedTrack[]): Distinct[] {
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
