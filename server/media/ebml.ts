import type { FileBytes } from './fileBytes.ts';

/** The names of elements of Matroska (RFC 9559): what a file begins with, what holds all of it, and what holds some seconds of all tracks. */
export const EBML = 0x1a45dfa3;
export const SEGMENT = 0x18538067;
export const CLUSTER = 0x1f43b675;

/** Files that are whole have far fewer elements than this at a level. */
const MOST_ELEMENTS = 1_000;
const MOST_NUMBER_BYTES = 8;
/** The head of an element is no longer than this (bytes): four of its name, eight of its length. */
const MOST_HEAD_BYTES = 12;

/** An element of a Matroska file: its name as a number, where what it holds starts (bytes from the start of the file), and how long that is. */
export interface Element {
  id: number;
  startsAt: number;
  /** Bytes; null where that was not known when it was written. */
  length: number | null;
}

/** Reads the head of an element (EBML, RFC 8794). @returns null at the end, and where there is none */
export async function elementAt(bytes: FileBytes, at: number): Promise<Element | null> {
  const head = await bytes.at(at, MOST_HEAD_BYTES);
  if (head.length < 2) return null;
  const idBytes = bytesOfNumber(head[0]);
  const sizeBytes = idBytes <= 4 && idBytes < head.length ? bytesOfNumber(head[idBytes]) : 0;
  if (sizeBytes < 1 || sizeBytes > 8 || head.length < idBytes + sizeBytes) return null;
  const size = head.subarray(idBytes + 1, idBytes + sizeBytes);
  const length = size.reduce((sum, byte) => sum * 256 + byte, head[idBytes] & (0xff >> sizeBytes));
  // All bits set: not known yet.
  const isKnown = length < 2 ** (7 * sizeBytes) - 1;
  return {
    id: head.readUIntBE(0, idBytes),
    startsAt: at + idBytes + sizeBytes,
    length: isKnown ? length : null,
  };
}

/** The elements that another one holds, one after the other, until something is no element. */
export async function* within(bytes: FileBytes, { startsAt, length }: Element): AsyncGenerator<Element> {
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

/** A whole number that an element holds. */
export async function wholeNumber(bytes: FileBytes, { startsAt, length }: Element): Promise<number> {
  const value = await bytes.at(startsAt, Math.min(MOST_NUMBER_BYTES, length ?? 0));
  return value.reduce((sum, byte) => sum * 256 + byte, 0);
}

/** A number says in its first bits of how many bytes it consists. */
function bytesOfNumber(first: number): number {
  return Math.clz32(first) - 23;
}
