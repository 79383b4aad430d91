import { boxesIn, boxIn, boxName, boxOf } from '../boxes.ts';
import { entriesOf, tableOf } from './tables.ts';
import type { WholeRecording, WholeTrack } from './wholeRecording.ts';

/** What was found of a track, in the order of decoding. */
export interface FoundTrack {
  like: WholeTrack;
  /** Where each packet lies, counted from the first of all, and how many bytes it has. */
  offsets: number[];
  sizes: number[];
  /** When each is decoded, and how much later it is shown (units of the track); the second is empty where at once. */
  times: number[];
  shownLater: number[];
  /** How long the last one lasts (units). */
  lastDuration: number;
  /** Which packets decoders may begin with (places from 1 on); null where with all of them. */
  keys: number[] | null;
}

const MOST = 2 ** 32 - 1;
/** Where the two forms of a head say how long something is: behind times of four bytes, or of eight (ISO/IEC 14496-12). */
const MOVIE_AT = { timescale: [20, 28], duration: [24, 32] };
const TRACK_DURATION_AT = [28, 36];
/** References to tracks that were left out would lead nowhere. */
const LEFT_OUT = new Set(['tref', 'mvex']);

/**
 * Writes the front of an MP4 or MOV file (ISO/IEC 14496-12): its type, an index of what was found, and the head of the media, which are to follow.
 * @param whole the recording that it goes by; what its index says of each track is kept, but for where the packets lie and when they come
 * @param mediaBytes how long the media are
 */
export function frontLike(whole: WholeRecording, tracks: FoundTrack[], mediaBytes: number): Buffer {
  const { type, moov } = whole;
  const mediaHead = Buffer.alloc(16);
  mediaHead.writeUInt32BE(1, 0);
  mediaHead.write('mdat', 4, 'latin1');
  mediaHead.writeBigUInt64BE(BigInt(mediaBytes + mediaHead.length), 8);
  // Places are counted from the front on, whose length does not hang on them.
  const { length } = indexLike(moov, tracks, 0);
  const index = indexLike(moov, tracks, type.length + length + mediaHead.length);
  return Buffer.concat([type, index, mediaHead]);
}

function indexLike(whole: Buffer, tracks: FoundTrack[], mediaAt: number): Buffer {
  const movie = boxIn(whole, 'mvhd') ?? Buffer.alloc(0);
  const timescale = movie.readUInt32BE(MOVIE_AT.timescale[movie[8]]);
  const seconds = Math.max(...tracks.map((track) => mediaDuration(track) / track.like.timescale));
  const parts = boxesIn(whole).flatMap((box) => {
    const name = boxName(box);
    if (name === 'mvhd') return [withNumber(box, MOVIE_AT.duration, Math.round(seconds * timescale))];
    if (LEFT_OUT.has(name)) return [];
    if (name !== 'trak') return [box];
    const track = tracks.find(({ like }) => like.trak.equals(box));
    return track ? [trackLike(box, track, timescale, mediaAt)] : [];
  });
  return boxOf('moov', ...parts);
}

/** @param timescale units of the file's own time in a second */
function trackLike(box: Buffer, track: FoundTrack, timescale: number, mediaAt: number): Buffer {
  const parts = boxesIn(box).flatMap((part) => {
    const name = boxName(part);
    if (LEFT_OUT.has(name)) return [];
    if (name === 'tkhd')
      return [withNumber(part, TRACK_DURATION_AT, inFile(mediaDuration(track), track, timescale))];
    if (name === 'mdhd') return [withNumber(part, MOVIE_AT.duration, mediaDuration(track))];
    if (name === 'edts') return editsLike(part, track, timescale);
    if (name === 'mdia' || name === 'minf') return [trackLike(part, track, timescale, mediaAt)];
    if (name === 'stbl') return [boxOf('stbl', ...tablesOf(part, track, mediaAt))];
    return [part];
  });
  return boxOf(boxName(box), ...parts);
}

function mediaDuration({ times, lastDuration }: FoundTrack): number {
  return (times.at(-1) ?? 0) + lastDuration;
}

function inFile(units: number, { like }: FoundTrack, timescale: number): number {
  return Math.round((units / like.timescale) * timescale);
}

/** The number that a head has in one of two places, by its form. */
function withNumber(head: Buffer, at: number[], value: number): Buffer {
  const copy = Buffer.from(head);
  if (copy[8] === 1) copy.writeBigUInt64BE(BigInt(value), at[1]);
  else copy.writeUInt32BE(Math.min(MOST, value), at[0]);
  return copy;
}

/** What is shown of a track, and how much later than the others it begins: as before, but to its own end. */
function editsLike(box: Buffer, track: FoundTrack, timescale: number): Buffer[] {
  const list = boxIn(box, 'elst');
  if (!list) return [];
  const isWide = list[8] === 1;
  const each = isWide ? 5 : 3;
  const entries = entriesOf(list, each);
  const edits: number[] = [];
  for (let at = 0; at < entries.length; at += each) {
    const [high, low] = isWide ? entries.slice(at + 2, at + 4) : [0, entries[at + 1]];
    const isEmpty = (isWide ? high : low) === MOST;
    const from = isEmpty ? -1 : high * 2 ** 32 + low;
    const lastsFor = isWide ? entries[at] * 2 ** 32 + entries[at + 1] : entries[at];
    const duration = isEmpty ? lastsFor : inFile(Math.max(0, mediaDuration(track) - from), track, timescale);
    edits.push(Math.min(MOST, duration), from, 1 << 16);
    if (!isEmpty) break;
  }
  return [boxOf('edts', tableOf('elst', edits.length / 3, edits))];
}

function tablesOf(old: Buffer, track: FoundTrack, mediaAt: number): Buffer[] {
  const { offsets, sizes, times, shownLater, lastDuration, keys } = track;
  const durations = times.map((time, at) => (at + 1 < times.length ? times[at + 1] - time : lastDuration));
  const description = boxIn(old, 'stsd') ?? Buffer.alloc(0);
  const chunks = chunksOf(offsets, sizes);
  const stsc = chunks.flatMap(({ packets }, at) =>
    at > 0 && chunks[at - 1].packets === packets ? [] : [at + 1, packets, 1],
  );
  const places = chunks.flatMap(({ at }) => [Math.floor((at + mediaAt) / 2 ** 32), (at + mediaAt) % 2 ** 32]);
  const later = repeats(shownLater);
  const isEarly = shownLater.some((one) => one < 0);
  return [
    description,
    table('stts', 2, repeats(durations)),
    ...(shownLater.length > 0 ? [table('ctts', 2, later, isEarly ? 1 : 0)] : []),
    ...(keys ? [table('stss', 1, keys)] : []),
    table('stsc', 3, stsc),
    boxOf('stsz', sizeTable(sizes)),
    table('co64', 2, places),
  ];
}

function table(name: string, each: number, numbers: number[], version = 0): Buffer {
  return tableOf(name, numbers.length / each, numbers, version);
}

function sizeTable(sizes: number[]): Buffer {
  const bytes = Buffer.alloc(12 + 4 * sizes.length);
  bytes.writeUInt32BE(sizes.length, 8);
  sizes.forEach((size, i) => {
    bytes.writeUInt32BE(size, 12 + 4 * i);
  });
  return bytes;
}

/** Numbers, each behind how often it comes in a row. */
function repeats(numbers: number[]): number[] {
  const all: number[] = [];
  for (const number of numbers)
    if (all.length > 0 && all[all.length - 1] === number) all[all.length - 2] += 1;
    else all.push(1, number);
  return all;
}

/** Packets that follow each other without others between them. */
function chunksOf(offsets: number[], sizes: number[]): { at: number; packets: number }[] {
  const chunks: { at: number; packets: number }[] = [];
  let end = -1;
  offsets.forEach((at, i) => {
    if (at === end) chunks[chunks.length - 1].packets += 1;
    else chunks.push({ at, packets: 1 });
    end = at + sizes[i];
  });
  return chunks;
}
