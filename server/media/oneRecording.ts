import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import { boxAt } from './boxes.ts';
import { EBML, elementAt } from './ebml.ts';
import { FileBytes } from './fileBytes.ts';
import { MediaError } from './mediaError.ts';

/** What a WAV file begins with. */
const RIFF = ['RIFF', 'RF64'];
/** Ogg's pages: what is in front of their list of lengths (bytes), and the mark of one that begins a stream. */
const PAGE_BYTES = 27;
const BEGINS = 2;
/** Real files have fewer parts than this to look at (ten hours of Ogg have some 150,000 pages); only damaged ones have more. */
const MOST_BOXES = 10_000;
const MOST_PAGES = 1_000_000;
/** Where the second recording begins in files that were looked at, by size, time and path; of so many files. */
const MOST_KNOWN = 1_000;
const known = new Map<string, number | null>();

/**
 * Tells where a second recording begins in a file that holds several, one after the other (a stream that was saved on and on, or files that were
 * joined as they were): readers stop at the end of the first, or mix them up. (RIFF, RF64, MP4 with one index, Matroska, Ogg. MP3 and AAC run on,
 * so that all of it is read.)
 * @returns bytes from the start of the file; null where it holds one recording
 */
export async function secondRecordingAt(path: string): Promise<number | null> {
  const handle = await open(path, 'r');
  try {
    const { size, mtimeMs } = await handle.stat();
    const key = `${size} ${mtimeMs} ${path}`;
    const before = known.get(key);
    if (before !== undefined) return before;
    const found = await secondIn(new FileBytes(handle, size));
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(key, found);
    return found;
  } finally {
    await handle.close();
  }
}

/** @throws {MediaError} where a file holds several recordings, one after the other */
export async function refuseSeveral(path: string): Promise<void> {
  if ((await secondRecordingAt(path)) !== null)
    throw new MediaError(
      'unsupported',
      `${basename(path)} holds several recordings, one after the other, and only the first could be read. Repair it to get the first as a file of its own, or export each of them as one.`,
    );
}

async function secondIn(bytes: FileBytes): Promise<number | null> {
  const start = await bytes.at(0, 12);
  if (start.length < 12) return null;
  const name = start.toString('latin1', 0, 4);
  if (RIFF.includes(name)) return secondRiff(bytes, start);
  if (start.toString('latin1', 4, 8) === 'ftyp') return secondMp4(bytes);
  if (start.readUInt32BE(0) === EBML) return secondMatroska(bytes);
  return name === 'OggS' ? secondOgg(bytes) : null;
}

async function secondRiff(bytes: FileBytes, start: Buffer): Promise<number | null> {
  const ds64 = await bytes.at(12, 16);
  const isLarge = start.toString('latin1', 0, 4) === 'RF64' && ds64.toString('latin1', 0, 4) === 'ds64';
  const length = isLarge && ds64.length === 16 ? Number(ds64.readBigUInt64LE(8)) : start.readUInt32LE(4);
  const end = 8 + length + (length % 2);
  const next = await bytes.at(end, 12);
  const isAnother = RIFF.includes(next.toString('latin1', 0, 4)) && next.toString('latin1', 8, 12) === 'WAVE';
  return isAnother ? end : null;
}

/** A file in fragments is not looked through: it has too many boxes. */
async function secondMp4(bytes: FileBytes): Promise<number | null> {
  for (let at = 0, boxes = 0; boxes < MOST_BOXES; boxes++) {
    const box = await boxAt(bytes, at);
    if (!box || box.name === 'moof') return null;
    if (box.name === 'ftyp' && at > 0) return at;
    at += box.length;
  }
  return null;
}

async function secondMatroska(bytes: FileBytes): Promise<number | null> {
  let at = 0;
  for (let element = 0; element < 8; element++) {
    const found = await elementAt(bytes, at);
    if (!found) return null;
    if (element > 0 && found.id === EBML) return at;
    if (found.length === null) return null;
    at = found.startsAt + found.length;
  }
  return null;
}

/** All streams of a recording begin before any of them goes on. */
async function secondOgg(bytes: FileBytes): Promise<number | null> {
  let isUnderWay = false;
  for (let at = 0, pages = 0; pages < MOST_PAGES; pages++) {
    const page = await bytes.at(at, PAGE_BYTES + 255);
    if (page.length < PAGE_BYTES || page.toString('latin1', 0, 4) !== 'OggS') return null;
    const begins = (page[5] & BEGINS) !== 0;
    if (begins && isUnderWay) return at;
    isUnderWay ||= !begins;
    const lengths = page.subarray(PAGE_BYTES, PAGE_BYTES + page[26]);
    at += PAGE_BYTES + page[26] + lengths.reduce((sum, length) => sum + length, 0);
  }
  return null;
}
