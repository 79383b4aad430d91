import { open } from 'node:fs/promises';
import { type Element, elementAt } from './ebml.ts';
import { FileBytes } from './fileBytes.ts';

/** Elements of Matroska by their names (RFC 9559). */
const MATROSKA = 0x1a45dfa3;
const SEGMENT = 0x18538067;
const CLUSTER = 0x1f43b675;
const TRACKS = 0x1654ae6b;
const TRACK_ENTRY = 0xae;
const TRACK_NUMBER = 0xd7;
const CODEC_DELAY = 0x56aa;

/** Files that are whole have far fewer elements than this at a level. */
const MOST_ELEMENTS = 1_000;
/** No coder holds back as much as this (s). */
const MOST_DELAY_S = 1;

/**
 * Reads by how much the packets of each track come too late by their own times, since their decoder gives so much before the sound itself begins
 * (Matroska's CodecDelay): that is to be taken off each of their times.
 * @returns seconds, by the track's number in the file; nothing of a file that is not Matroska, or is damaged there
 */
export async function codecDelaysOf(path: string): Promise<Map<number, number>> {
  const delays = new Map<number, number>();
  const handle = await open(path, 'r');
  try {
    const bytes = new FileBytes(handle, (await handle.stat()).size);
    const head = await elementAt(bytes, 0);
    if (head?.id !== MATROSKA || head.length === null) return delays;
    const segment = await elementAt(bytes, head.startsAt + head.length);
    if (segment?.id !== SEGMENT) return delays;
    for await (const element of within(bytes, segment)) {
      if (element.id === CLUSTER) break;
      if (element.id !== TRACKS) continue;
      for await (const entry of within(bytes, element))
        if (entry.id === TRACK_ENTRY) await readEntry(bytes, entry, delays);
      break;
    }
    return delays;
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

/** The elements that another one holds, one after the other, until something is no element. */
async function* within(bytes: FileBytes, { startsAt, length }: Element): AsyncGenerator<Element> {
  const end = startsAt + (length ?? Number.POSITIVE_INFINITY);
  let at = startsAt;
  for (let count = 0; at < end && count < MOST_ELEMENTS; count++) {
    const element = await elementAt(bytes, at);
    if (!element) return;
    yield element;
    if (element.length === null) return;
    at = element.startsAt + element.length;
  }
}

async function wholeNumber(bytes: FileBytes, { startsAt, length }: Element): Promise<number> {
  const value = await bytes.at(startsAt, Math.min(8, length ?? 0));
  return value.reduce((sum, byte) => sum * 256 + byte, 0);
}
