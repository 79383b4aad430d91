import { open } from 'node:fs/promises';
import { CLUSTER, EBML, type Element, elementAt, SEGMENT, wholeNumber, within } from './ebml.ts';
import { FileBytes } from './fileBytes.ts';

/** Elements of Matroska by their names (RFC 9559). */
const TRACKS = 0x1654ae6b;
const TRACK_ENTRY = 0xae;
const TRACK_NUMBER = 0xd7;
const CODEC_DELAY = 0x56aa;
const CHAPTERS = 0x1043a770;

/** No coder holds back as much as this (s). */
const MOST_DELAY_S = 1;

/**
 * Reads by how much the packets of each track come too late by their own times, since their decoder gives so much before the sound itself begins
 * (Matroska's CodecDelay): that is to be taken off each of their times.
 * @returns seconds, by the track's number in the file; nothing of a file that is not Matroska, or is damaged there
 */
export async function codecDelaysOf(path: string): Promise<Map<number, number>> {
  const delays = new Map<number, number>();
  await eachHead(path, async (bytes, element) => {
    if (element.id !== TRACKS) return false;
    for await (const entry of within(bytes, element))
      if (entry.id === TRACK_ENTRY) await readEntry(bytes, entry, delays);
    return true;
  });
  return delays;
}

/** Tells whether a file of Matroska names chapters before its sound and picture. */
export async function hasChapters(path: string): Promise<boolean> {
  let found = false;
  await eachHead(path, async (_, element) => {
    found ||= element.id === CHAPTERS;
    return found;
  });
  return found;
}

/** Goes through the elements of a Matroska file that lie before its sound and picture, until it is told that this is enough. */
async function eachHead(
  path: string,
  visit: (bytes: FileBytes, element: Element) => Promise<boolean>,
): Promise<void> {
  const handle = await open(path, 'r');
  try {
    const bytes = new FileBytes(handle, (await handle.stat()).size);
    const head = await elementAt(bytes, 0);
    if (head?.id !== EBML || head.length === null) return;
    const segment = await elementAt(bytes, head.startsAt + head.length);
    if (segment?.id !== SEGMENT) return;
    for await (const element of within(bytes, segment))
      if (element.id === CLUSTER || (await visit(bytes, element))) return;
  } finally {
    await handle.close();
  }
}

async function readEntry(bytes: FileBytes, entry: Element, delays: Map<number, number>): Promise<void> {
  let number = 0;
  let delayS = 0;
  for await (const element of within(bytes, entry)) {
    if (element.id === TRACK_NUMBER) number = await wholeNumber(bytes, element);
    if (element.id === CODEC_DELAY) delayS = (await wholeNumber(bytes, element)) / 1e9;
  }
  if (delayS > 0 && delayS < MOST_DELAY_S) delays.set(number, delayS);
}
