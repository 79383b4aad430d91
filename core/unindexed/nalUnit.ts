import { BitReader } from './bitReader.ts';

/** How pictures are coded whose packets consist of units, each behind its length. */
export type UnitCodec = 'avc' | 'hevc';

/** So many bytes of a unit are enough to tell what it is. */
export const UNIT_HEAD_BYTES = 12;

/** A unit begins with its header, which says what it holds. */
const HEADER_BYTES = { avc: 1, hevc: 2 };

/** What a unit is to the packets around it. */
export interface Unit {
  /** A slice holds a part of a picture; others come before its slices, or behind them. */
  role: 'slice' | 'before' | 'behind';
  /** Whether a new packet begins with it, if a slice came before. */
  begins: boolean;
  /** Whether decoders may begin with the picture that it belongs to. */
  isKey: boolean;
}

/**
 * Reads what a unit is from its first bytes (ITU-T H.264, 7.3.1 and 7.4.1.2.3; H.265, 7.3.1.2 and 7.4.2.4.4).
 * @returns null where no unit begins so
 */
export function unitOf(codec: UnitCodec, head: Uint8Array): Unit | null {
  if (head.length < HEADER_BYTES[codec] || head[0] >= 0x80) return null;
  return codec === 'avc' ? avcUnit(head) : hevcUnit(head);
}

const AVC_SLICE = 1;
const AVC_KEY_SLICE = 5;
/** End of sequence, end of stream, filler; the slices of auxiliary pictures and extensions belong to the picture before them. */
const AVC_BEHIND = new Set([2, 3, 4, 10, 11, 12, 19, 20, 21]);
/** Supplemental information, parameter sets, delimiter, and what is reserved for the same place. */
const AVC_BEFORE = new Set([6, 7, 8, 9, 13, 14, 15, 16, 17, 18]);
const MOST_SLICE_TYPE = 9;
const MOST_AVC_SETS = 255;

function avcUnit(head: Uint8Array): Unit | null {
  const type = head[0] & 31;
  if (AVC_BEHIND.has(type)) return { role: 'behind', begins: false, isKey: false };
  if (AVC_BEFORE.has(type)) return { role: 'before', begins: true, isKey: false };
  if (type !== AVC_SLICE && type !== AVC_KEY_SLICE) return null;
  const isKey = type === AVC_KEY_SLICE;
  const referred = head[0] >> 5;
  const bits = new BitReader(head, 1);
  const first = bits.readGolomb();
  const sliceType = bits.readGolomb();
  const set = bits.readGolomb();
  if ((isKey && referred === 0) || sliceType > MOST_SLICE_TYPE || set > MOST_AVC_SETS) return null;
  return { role: 'slice', begins: first === 0, isKey };
}

const HEVC_LAST_SLICE = 21;
const HEVC_FIRST_KEY = 16;
const HEVC_LAST_KEY = 21;
/** Parameter sets and delimiter, supplemental information in front, and what is reserved or free for the same place. */
const HEVC_BEFORE = new Set([32, 33, 34, 35, 39, 41, 42, 43, 44, 48, 49, 50, 51, 52, 53, 54, 55]);
const HEVC_RESERVED = new Set([10, 11, 12, 13, 14, 15]);

function hevcUnit(head: Uint8Array): Unit | null {
  const type = head[0] >> 1;
  const time = head[1] & 7;
  if (time === 0 || HEVC_RESERVED.has(type)) return null;
  if (type <= HEVC_LAST_SLICE) {
    const isKey = type >= HEVC_FIRST_KEY && type <= HEVC_LAST_KEY;
    return { role: 'slice', begins: head[2] >= 0x80, isKey };
  }
  if (type < 32) return null;
  return HEVC_BEFORE.has(type)
    ? { role: 'before', begins: true, isKey: false }
    : { role: 'behind', begins: false, isKey: false };
}
