import { boxOf } from '../boxes.ts';

/** A table has flags and the number of its entries behind its head. */
const TABLE_HEAD_BYTES = 16;

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
