import type { FileBytes } from './fileBytes.ts';

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

/** A number says in its first bits of how many bytes it consists. */
function bytesOfNumber(first: number): number {
  return Math.clz32(first) - 23;
}
