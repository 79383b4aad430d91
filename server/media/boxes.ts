import type { FileBytes } from './fileBytes.ts';

/** A box begins with its length and its name; one of more than four gigabytes has its length behind them. */
export const BOX_HEAD_BYTES = 8;
const LONG_HEAD_BYTES = 16;

/** A box of MP4 or MOV (ISO/IEC 14496-12): its name, where it begins and how long it is (bytes). */
export interface Box {
  name: string;
  at: number;
  length: number;
}

/** Reads the head of a box. @returns null where there is none, or it does not say how long it is */
export async function boxAt(bytes: FileBytes, at: number): Promise<Box | null> {
  const head = await bytes.at(at, LONG_HEAD_BYTES);
  if (head.length < BOX_HEAD_BYTES) return null;
  const short = head.readUInt32BE(0);
  // A length of one stands for a long one behind the name, and none for “up to the end”.
  const length =
    short === 1 && head.length === LONG_HEAD_BYTES ? Number(head.readBigUInt64BE(BOX_HEAD_BYTES)) : short;
  return length >= BOX_HEAD_BYTES ? { name: boxName(head), at, length } : null;
}

/** How many bytes the head of a box has, of which at least the first eight are there. */
export function headBytes(box: Buffer): number {
  return box.readUInt32BE(0) === 1 ? LONG_HEAD_BYTES : BOX_HEAD_BYTES;
}

/** The name of a box, of which at least the head is there. */
export function boxName(box: Buffer): string {
  return box.toString('latin1', 4, BOX_HEAD_BYTES);
}

/** The boxes in a box (ISO/IEC 14496-12), each with its head. @throws {RangeError} where they do not fit into it */
export function boxesIn(box: Buffer): Buffer[] {
  const boxes: Buffer[] = [];
  for (let at = BOX_HEAD_BYTES; at + BOX_HEAD_BYTES <= box.length; ) {
    const length = box.readUInt32BE(at);
    if (length < BOX_HEAD_BYTES || at + length > box.length) throw new RangeError('a box does not fit');
    boxes.push(box.subarray(at, at + length));
    at += length;
  }
  return boxes;
}

/** The box that is reached by names, one in another; null where there is none. */
export function boxIn(box: Buffer, ...names: string[]): Buffer | null {
  const [name, ...others] = names;
  if (name === undefined) return box;
  const found = boxesIn(box).find((one) => boxName(one) === name);
  return found ? boxIn(found, ...others) : null;
}

/** A box of that name which holds these parts. */
export function boxOf(name: string, ...parts: Uint8Array[]): Buffer {
  const head = Buffer.alloc(BOX_HEAD_BYTES);
  head.write(name, 4, 'latin1');
  const box = Buffer.concat([head, ...parts]);
  box.writeUInt32BE(box.length, 0);
  return box;
}
