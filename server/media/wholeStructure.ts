import { open } from 'node:fs/promises';
import { boxAt } from './boxes.ts';
import { EBML, elementAt, SEGMENT } from './ebml.ts';
import { FileBytes, HEADS_ALONE } from './fileBytes.ts';

/** Where so many bytes at the end are zeros, nobody wrote them: the file lost its end. */
const TAIL_BYTES = HEADS_ALONE;

/**
 * Tells whether a file of Matroska (RFC 9559) or MP4 (ISO/IEC 14496-12) consists of whole parts, one behind the other, up to its
 * end: then nothing is missing there, whatever length it states.
 * @returns false also where that cannot be told
 */
export async function hasWholeStructure(path: string): Promise<boolean> {
  const handle = await open(path);
  try {
    const { size } = await handle.stat();
    const bytes = new FileBytes(handle, size, HEADS_ALONE);
    const tail = await bytes.at(Math.max(0, size - TAIL_BYTES), TAIL_BYTES);
    if (tail.every((byte) => byte === 0)) return false;
    const isMatroska = (await elementAt(bytes, 0))?.id === EBML;
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

/** Where what follows an element begins, or what the segment holds; null where the element does not say how long it is. */
async function endOfElement(bytes: FileBytes, at: number): Promise<number | null> {
  const element = await elementAt(bytes, at);
  if (!element || element.length === null) return null;
  return element.id === SEGMENT ? element.startsAt : element.startsAt + element.length;
}

/** Where a box ends; null where it does not say. */
async function endOfBox(bytes: FileBytes, at: number): Promise<number | null> {
  const box = await boxAt(bytes, at);
  return box && at + box.length;
}
