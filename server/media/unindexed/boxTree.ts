import { BOX_HEAD_BYTES, boxName } from '../boxes.ts';

/** A table has flags and the number of its entries behind its head. */
const TABLE_HEAD_BYTES = 16;

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

export function boxOf(name: string, ...parts: Uint8Array[]): Buffer {
  const head = Buffer.alloc(BOX_HEAD_BYTES);
  head.write(name, 4, 'latin1');
  const box = Buffer.concat([head, ...parts]);
  box.writeUInt32BE(box.length, 0);
  return box;
}

/** The numbers of a table, 32 bits each, so many in an entry. @throws {RangeError} where it is shorter than it says */
export function entriesOf(table: Buffer | null, each: number): number[] {
  if (!table) return [];
  const count = each * table.readUInt32BE(12);
  if (count > (table.length - TABLE_HEAD_BYTES) / 4) throw new RangeError('a table is too short');
  return Array.from({ length: count }, (_, i) => table.readUInt32BE(TABLE_HEAD_BYTES + 4 * i));
}

/** A table of numbers of 32 bits. @param entries how many entries they make */
export function tableOf(name: string, entries: number, numbers: number[], version = 0): Buffer {
  const table = Buffer.alloc(8 + 4 * numbers.length);
  table[0] = version;
  table.writeUInt32BE(entries, 4);
  numbers.forEach((number, i) => {
    table.writeInt32BE(number | 0, 8 + 4 * i);
  });
  return boxOf(name, table);
}
