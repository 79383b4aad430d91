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

/** The name of a box, of which at least the head is there. */
export function boxName(box: Buffer): string {
  return box.toString('latin1', 4, BOX_HEAD_BYTES);
}
