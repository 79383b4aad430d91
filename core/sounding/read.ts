import { type MakeFft, withFft } from '../measure/fft.ts';
import { ByClock, type ByOther, type ClockGroup } from './byClock.ts';
import { cellsOf, type MeasuredCell, SAME_ARRIVAL, type SideArrival } from './cells.ts';
import { ChannelReader } from './channel.ts';
import { ClockReader } from './clocks.ts';
import type { CodeSides } from './code.ts';
import { Halver } from './halver.ts';
import { around, PERIOD, READ_RATE } from './periods.ts';
import { Players } from './players.ts';
import {
  type CodedTrack,
  type Distinct,
  distinctChannels,
  type ReadChannel,
  readChannel,
} from './readChannel.ts';
import { arrivalsOf } from './sides.ts';
import { PeriodSpectra } from './spectra.ts';
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
/** Reads a recording of codes: which source arrives on which track, and how. */
export async function readSounding(
  tracks: CodedTrack[],
  sources: CodedSource[],
  onProgress: (share: number) => void = () => {},
): Promise<ReadSounding> {
  return withFft((makeFft) => {
    const room = new RoomReader(makeFft, tracks, sources, onProgress);
    room.readOn();
    const counts = tracks.map(({ channels }) => channels.length);
    const cells: MeasuredCell[] = [];
    const heard: HeardSource[] = [];
    for (const [source, { id, sides }] of sources.entries()) {
      const { perTrack, loudest } = room.arrivals(source, counts);
      const found = cellsOf(id, perTrack, counts, sides === 'stereo' ? 2 : 1);
      const how = loudest && found.length > 0 ? room.heardAs(loudest) : null;
      cells.push(...found);
      if (how) heard.push({ source: id, ...how });
    }
    const unheard = sources.flatMap(({ id }) => (cells.some(({ source }) => source === id) ? [] : [id]));
    return { cells, heard, unheard };
  });
}

/** Reads all channels of a recording, again and again as more becomes known of clocks and of when sources sound. */
class RoomReader {
  private readonly channels: Distinct[];
  private readonly players: Players;
  private readonly reader: ChannelReader;
  private readonly byClock: ByClock;
  private readonly clocks: ClockReader;
  /** All players by their clocks. One whose clock cannot be read counts as running on the recorder's. */
  private readonly groups: ClockGroup[];
  /** The players whose clocks are known. */
  private readonly known: Set<number>;
  private readonly onProgress: (share: number) => void;
  private shareDone = 0;
  private read: ReadChannel[];

  constructor(
    makeFft: MakeFft,
    tracks: CodedTrack[],
    sources: CodedSource[],
    onProgress: (share: number) => void,
  ) {
    this.onProgress = onProgress;
    const halver = new Halver(makeFft);
    this.channels = distinctChannels(tracks).map((one) => ({ ...one, samples: halver.halved(one.samples) }));
    const spectra = new PeriodSpectra(makeFft, {
      codes: 2 * sources.length + DECOYS,
      frames: max(PERIOD, ...this.channels.map(({ samples }) => samples.length)),
    });
    this.players = new Players(spectra, sources);
    const { codes } = this.players;
    const decoys = Array.from({ length: DECOYS }, (_, i) => spectra.codeNamed(`nobody/${i}`, -1));
    this.reader = new ChannelReader(spectra, codes, decoys);
    this.byClock = new ByClock(spectra, decoys);
    this.clocks = new ClockReader(makeFft, spectra, this.byClock, decoys);
    this.groups = [{ drift: 0, sources: new Set(sources.keys()) }];
    const samples = this.channels.map((one) => one.samples);
    this.known = this.clocks.assign(samples, codes, this.groups).read;
    this.lookFor(this.clocks.elsewhere(this.groups), () => true);
    this.read = this.channels.map((_, at) => this.readOne(at));
  }

  /** Reads again what could not be read at first. */
  readOn(): void {
    const { channels, players } = this;
    // A loud source of one clock hides quiet ones of another, which show once it is taken out.
    for (let turn = 0; turn < MOST_TURNS; turn++) {
      const knownBefore = this.known.size;
      const moved = this.assignHidden();
      // Of the more there is known, the less is left to hide others.
      if (moved.size === 0 && this.known.size === knownBefore) break;
      if (moved.size === 0) continue;
      for (const player of moved) players.stretches[player] = null;
      this.read = channels.map((_, at) => this.readOne(at));
    }
    this.readSurely();
    if (this.groups.length > 1) {
      this.readByOthers();
      this.readSurely();
    }
    this.onProgress(1);
  }

  /** What was read while it was not yet sure when a source sounds is read again. */
  private readSurely(): void {
    const { codes, stretches } = this.players;
    this.read = this.read.map((one, at) => {
      const isSure =
        one.isWhole &&
        one.arrivals.every(({ code, stretch }) => isSameStretch(stretch, stretches[codes[code].source]));
      return isSure ? one : this.readOne(at, 1);
    });
  }

  /** What was read of a source, on each track with so many channels; and the arrival that is the loudest. */
  arrivals(source: number, tracks: number[]): { perTrack: SideArrival[][]; loudest: SideArrival | null } {
    const { players, reader } = this;
    const perTrack = tracks.map((count, track) => {
      const places = Array.from({ length: count }, (_, channel) =>
        this.channels.findIndex(({ of }) => of.some(([t, c]) => t === track && c === channel)),
      );
      return players.of(source).flatMap((player) => {
        const isOn = (at: number) => at >= 0 && players.isOn({ channel: at, player });
        const on = places.map((at) => (isOn(at) ? this.read[at] : null));
        // Arrivals of several clocks can be compared by the recorder's alone, when they begin.
        const { drift } = this.clockOf(player);
        const later = ((players.stretches[player]?.from ?? 0) * drift) / (1 - drift);
        return arrivalsOf(reader, players, player, on).map((one) => ({ ...one, lag: one.lag + later }));
      });
    });
    const loudest = perTrack
      .flat()
      .reduce<SideArrival | null>(
        (best, one) => (best && abs(best.gain) >= abs(one.gain) ? best : one),
        null,
      );
    return { perTrack, loudest };
  }

  /** When a source sounds, and its clock: where it came over two, that by which it is loudest. */
  heardAs({ player }: SideArrival): Omit<HeardSource, 'source'> | null {
    const stretch = this.players.stretches[player];
    if (!stretch) return null;
    const { drift } = this.clockOf(player);
    const [fromS, toS] = [stretch.from, stretch.to].map((frame) => frame / READ_RATE / (1 - drift));
    return { fromS, toS, driftPpm: drift === 0 ? 0 : -1e6 * drift };
  }

  private clockOf(player: number): ClockGroup {
    return this.groups.find(({ sources }) => sources.has(player)) ?? this.groups[0];
  }

  private readOne(at: number, most = 0.9): ReadChannel {
    const { channels, players, clocks } = this;
    const on = players
      .clocksOn(at, this.groups)
      .map((group) => ({ group, loudest: clocks.loudestOn(at, group) }));
    const reading = readChannel(this.reader, channels[at], players.stretches, on);
    this.shareDone += (most - this.shareDone) / (2 * channels.length);
    this.onProgress(this.shareDone);
    return { ...channels[at], ...reading };
  }

  /** Has sources looked for by other clocks. @param isInstead tells whether by their own no more, on that channel */
  private lookFor(others: ByOther[], isInstead: (one: ByOther) => boolean): void {
    for (const one of others) {
      const isSo = isInstead(one);
      for (const channel of this.besides(one.channel)) {
        const player = this.players.alsoBy(one.clock, { ...one, channel }, isSo);
        this.known.add(player);
        this.clocks.noteSeen(channel, player, one.gain);
      }
    }
  }

  /** The channels of the tracks that a channel is on: all of a track come by the same clock. */
  private besides(channel: number): number[] {
    const tracks = this.channels[channel].of.map(([track]) => track);
    return this.channels.flatMap(({ of }, at) => (of.some(([track]) => tracks.includes(track)) ? [at] : []));
  }

  /** Reads what is left of channels by clocks of other sources: some came there another way. */
  private readByOthers(): void {
    const { players, clocks, byClock, groups, read } = this;
    const left = read.map((channel) => channel.without(() => true));
    const codesOn = (channel: number) => players.codesOn(channel);
    const others = [
      ...clocks.elsewhereIn(left, codesOn, groups),
      ...byClock.leftByOthers(left, codesOn, groups),
    ];
    this.lookFor(others, ({ channel, player, clock }) => {
      const isIts = (code: number) => players.codes[code].source === player;
      const its = players.codes.filter((_, code) => isIts(code));
      // On all channels of the track on which it was read by its own clock.
      return this.besides(channel).every((at) => {
        if (at !== channel && !read[at].arrivals.some(({ code }) => isIts(code))) return true;
        const withIt = read[at].without(({ code }) => !isIts(code));
        return byClock.isLouderBy(withIt, its, clock, this.clockOf(player));
      });
    });
    for (const at of new Set(others.flatMap(({ channel }) => this.besides(channel))))
      read[at] = this.readOne(at);
  }

  /**
   * Reads the clocks of sources that louder ones hid, in what is left of the channels.
   * @returns the players that were found to run on another clock than the one by which they were read
   */
  private assignHidden(): Set<number> {
    const { clocks, known, groups } = this;
    const { codes } = this.players;
    const hidden = codes.filter(({ source }) => !known.has(source));
    if (hidden.length === 0) return new Set();
    const left = this.read.map((channel) => channel.without(({ code }) => known.has(codes[code].source)));
    const { read, moved } = clocks.assign(left, hidden, groups);
    for (const source of read) known.add(source);
    const unread = hidden.filter(({ source }) => !known.has(source));
    if (groups.length > 1 && unread.length > 0)
      for (const source of clocks.assignKnown(left, unread, groups)) moved.add(source);
    return moved;
  }
}

/** Tells whether two readings of when a source sounds come to the same: it arrives later on some channels. */
function isSameStretch(a: Stretch, b: Stretch | null): boolean {
  if (!b) return false;
  const later = around(b.lag - a.lag);
  return abs(b.from - a.from - later) <= SAME_ARRIVAL && abs(b.to - a.to - later) <= SAME_ARRIVAL;
}
