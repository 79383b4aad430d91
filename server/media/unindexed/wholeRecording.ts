import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import { type AacLayout, aacLayoutOf } from '../../../core/unindexed/aacLayout.ts';
import type { UnitCodec } from '../../../core/unindexed/nalUnit.ts';
import { BOX_HEAD_BYTES, boxAt, boxesIn, boxIn, boxName, headBytes } from '../boxes.ts';
import { bytesOf } from '../bytesOf.ts';
import { FileBytes, HEADS_ALONE } from '../fileBytes.ts';
import { MediaError } from '../mediaError.ts';
import { openInput } from '../openInput.ts';
import { codecOf, configOf } from '../trackCodec.ts';
import { entriesOf } from './tables.ts';

/** How the packets of a track end: by what they hold. */
export type PacketLayout =
  | ({ kind: 'sound' } & AacLayout)
  | { kind: 'picture'; codec: UnitCodec; lengthBytes: number; description: Uint8Array };

/** A track of a recording that has its index. */
export interface WholeTrack {
  /** Its own part of the index, as it is. */
  trak: Buffer;
  layout: PacketLayout;
  /** Units of its times in a second. */
  timescale: number;
  /** Where each packet lies, and how many bytes it has, in the order of decoding. */
  offsets: number[];
  sizes: number[];
  /** How long each packet lasts (units). */
  durations: number[];
  /** How much later than decoded each is shown (units); empty where at once. */
  shownLater: number[];
}

/** A recording that has its index: what one without can go by. */
export interface WholeRecording {
  /** What the file says of its type, as it is; empty where it says nothing. */
  type: Buffer;
  moov: Buffer;
  tracks: WholeTrack[];
  /** How far behind the head of its media the first packet lies (bytes). */
  leadBytes: number;
}

/** No index is larger: some 60 hours of eight tracks. */
const MOST_INDEX_BYTES = 1 << 29;

/** @throws {MediaError} where it cannot serve: it is no MP4 or MOV with an index, or holds what cannot be found without one */
export async function readWhole(path: string): Promise<WholeRecording> {
  const name = basename(path);
  const { type, moov, mediaAt } = await indexOf(path);
  return orDamaged(name, async () => {
    if (boxIn(moov, 'mvex'))
      throw new MediaError(
        'unsupported',
        `${name} is written in fragments; choose a whole recording that is not.`,
      );
    const layouts = await layoutsOf(path);
    const tracks = boxesIn(moov)
      .filter((box) => boxName(box) === 'trak')
      .map((trak) => trackOf(trak, layouts, name));
    const first = Math.min(...tracks.flatMap(({ offsets }) => offsets.slice(0, 1)));
    if (!(first >= mediaAt)) throw new RangeError('packets lie before the media');
    return { type, moov, tracks, leadBytes: first - mediaAt };
  });
}

/** Goes by the index of a recording. @throws {MediaError} where something in it makes no sense */
export async function orDamaged<Result>(name: string, work: () => Result | Promise<Result>): Promise<Result> {
  try {
    return await work();
  } catch (error) {
    const isOfDisk = error instanceof Error && 'code' in error && 'syscall' in error;
    if (error instanceof MediaError || isOfDisk) throw error;
    throw new MediaError('broken', `The index of ${name} is damaged; choose another whole recording.`);
  }
}

/** The index of a file, and where its media begin. */
async function indexOf(path: string): Promise<{ type: Buffer; moov: Buffer; mediaAt: number }> {
  const handle = await open(path);
  try {
    const { size } = await handle.stat();
    const bytes = new FileBytes(handle, size, HEADS_ALONE);
    let [type, moov, mediaAt]: [Buffer, Buffer | null, number | null] = [Buffer.alloc(0), null, null];
    for (let at = 0; at < size; ) {
      const box = await boxAt(bytes, at);
      if (!box || at + box.length > size) break;
      if (box.name === 'moov' && box.length <= MOST_INDEX_BYTES)
        moov = (await handle.read(Buffer.alloc(box.length), 0, box.length, at)).buffer;
      if (box.name === 'ftyp') type = Buffer.from(await bytes.at(at, box.length));
      if (box.name === 'mdat') mediaAt ??= at + headBytes(await bytes.at(at, BOX_HEAD_BYTES));
      at += box.length;
    }
    if (moov && mediaAt !== null) return { type, moov, mediaAt };
    throw new MediaError(
      'unsupported',
      `${basename(path)} is no MP4 or MOV with an index. Choose a whole recording made by the same program with the same settings.`,
    );
  } finally {
    await handle.close();
  }
}

/** How the packets of each track end, by its number; the name of its codec where that is not known. */
async function layoutsOf(path: string): Promise<Map<number, PacketLayout | string>> {
  const input = await openInput(path);
  try {
    const layouts = new Map<number, PacketLayout | string>();
    for (const track of await input.getTracks()) {
      const { codec } = await codecOf(track);
      const description = (await configOf(track))?.description;
      layouts.set(track.id, (description && layoutOf(codec, bytesOf(description))) ?? codec);
    }
    return layouts;
  } finally {
    input.dispose();
  }
}

/** Where a decoder's configuration says how many bytes the length of a unit has (ISO/IEC 14496-15). */
const LENGTH_AT = { avc: 4, hevc: 21 };

function layoutOf(codec: string, description: Uint8Array): PacketLayout | null {
  if (codec === 'aac') {
    const layout = aacLayoutOf(description);
    return layout && { kind: 'sound', ...layout };
  }
  if (codec !== 'avc' && codec !== 'hevc') return null;
  return { kind: 'picture', codec, lengthBytes: (description[LENGTH_AT[codec]] & 3) + 1, description };
}

function trackOf(trak: Buffer, layouts: Map<number, PacketLayout | string>, name: string): WholeTrack {
  const header = boxIn(trak, 'tkhd') ?? Buffer.alloc(0);
  const number = header.readUInt32BE(header[8] === 1 ? 28 : 20);
  const layout = layouts.get(number);
  if (layout === undefined || typeof layout === 'string')
    throw new MediaError(
      'unsupported',
      `Track ${number} of ${name} holds ${layout ? `“${layout}”` : 'neither sound nor picture'}: without an index, Northfen finds where packets end in H.264, HEVC and AAC only.`,
    );
  const media = boxIn(trak, 'mdia', 'mdhd') ?? Buffer.alloc(0);
  const timescale = media.readUInt32BE(media[8] === 1 ? 28 : 20);
  const table = boxIn(trak, 'mdia', 'minf', 'stbl');
  if (!table || timescale === 0) throw new RangeError('a track without tables');
  const sizes = sizesOf(boxIn(table, 'stsz'));
  return {
    ...{ trak, layout, timescale, sizes },
    offsets: offsetsOf(table, sizes),
    durations: repeated(entriesOf(boxIn(table, 'stts'), 2), sizes.length),
    shownLater: repeated(entriesOf(boxIn(table, 'ctts'), 2), sizes.length).map((later) => later | 0),
  };
}

/** No packets are more: each has at least a byte of media. */
const MOST_PACKETS = 1 << 26;

function sizesOf(table: Buffer | null): number[] {
  if (!table) throw new RangeError('a track without sizes');
  const [each, count] = [table.readUInt32BE(12), table.readUInt32BE(16)];
  if (count > MOST_PACKETS) throw new RangeError('too many packets');
  if (each > 0) return Array<number>(count).fill(each);
  if (count > (table.length - 20) / 4) throw new RangeError('a table is too short');
  return Array.from({ length: count }, (_, i) => table.readUInt32BE(20 + 4 * i));
}

/** Writes out a table of numbers and how often each comes. */
function repeated(pairs: number[], most: number): number[] {
  const all: number[] = [];
  for (let at = 0; at + 1 < pairs.length; at += 2)
    for (let i = 0; i < pairs[at] && all.length < most; i++) all.push(pairs[at + 1]);
  return all;
}

/** Where the packets lie: the file says so of chunks, and how many packets each has. */
function offsetsOf(table: Buffer, sizes: number[]): number[] {
  const chunks = chunksOf(table);
  const runs = entriesOf(boxIn(table, 'stsc'), 3);
  const offsets: number[] = [];
  let run = 0;
  chunks.forEach((startsAt, chunk) => {
    while (run + 3 < runs.length && runs[run + 3] <= chunk + 1) run += 3;
    let at = startsAt;
    for (let i = 0; i < (runs[run + 1] ?? 0) && offsets.length < sizes.length; i++) {
      const size = sizes[offsets.length];
      offsets.push(at);
      at += size;
    }
  });
  if (offsets.length < sizes.length) throw new RangeError('packets without a place');
  return offsets;
}

function chunksOf(table: Buffer): number[] {
  const narrow = boxIn(table, 'stco');
  if (narrow) return entriesOf(narrow, 1);
  const halves = entriesOf(boxIn(table, 'co64'), 2);
  return Array.from({ length: halves.length / 2 }, (_, i) => halves[2 * i] * 2 ** 32 + halves[2 * i + 1]);
}
