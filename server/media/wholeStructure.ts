import { open } from 'node:fs/promises';
import { elementAt } from './ebml.ts';
import { FileBytes } from './fileBytes.ts';

/** Where so many bytes at the end are zeros, nobody wrote them: the file lost its end. */
const TAIL_BYTES = 4096;
const EBML_ID = 0x1a45dfa3;
const BOX_HEAD_BYTES = 8;
const LONG_BOX_HEAD_BYTES = 16;

/**
 * Tells whether a file of Matroska (RFC 9559) or MP4 (ISO/IEC 14496-12) ends exactly where its last outermost part ends, as it says itself: then nothing
 * is missing at its end, whatever length it states.
 * @returns false also where that cannot be told
 */
export async function hasWholeStructure(path: string): Promise<boolean> {
  const handle = await open(path);
  try {
    const { size } = await handle.stat();
    const bytes = new FileBytes(handle, size);
    const tail = await bytes.at(Math.max(0, size - TAIL_BYTES), TAIL_BYTES);
    if (tail.every((byte) => byte === 0)) return false;
    const isMatroska = (await elementAt(bytes, 0))?.id === EBML_ID;
    const endOf = isMatroska ? endOfElement : endOfBox;
    if (!isMatroska && (await bytes.at(4, 4)).toString('latin1') !== 'ftyp') return false;
    let at = 0;
    while (at < size) {
      const end = await endOf(bytes, at);
      if (end === null) return false;
      at = end;
    }
    return at === size;
  } finally {
    await handle.close();
  }
}

/** Where an element ends; null where it does not say. */
async function endOfElement(bytes: FileBytes, at: number): Promise<number | null> {
  const element = await elementAt(bytes, at);
  return element && element.length !== null ? element.startsAt + element.length : null;
}

/** Where a box ends; null where it does not say. */
async function endOfBox(bytes: FileBytes, at: number): Promise<number | null> {
  const head = await bytes.at(at, LONG_BOX_HEAD_BYTES);
  if (head.length < BOX_HEAD_BYTES) return null;
  const short = head.readUInt32BE(0);
  // A size of one stands for a long one behind the name, and none for “up to the end”.
  const length = short === 1 && head.length === LONG_BOX_HEAD_BYTES ? Number(head.readBigUInt64BE(8)) : short;
  return length >= BOX_HEAD_BYTES ? at + length : null;
}
