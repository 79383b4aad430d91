import { type Bands, bandsAt } from './aacBands.ts';
import { SCALE_FACTORS, SPECTRA } from './aacCodebooks.ts';
import type { AacLayout } from './aacLayout.ts';
import { BitReader } from './bitReader.ts';

/** What a packet of AAC may hold, by number (ISO/IEC 14496-3, table 4.85). */
const SINGLE = 0;
const PAIR = 1;
const LOW_EFFECTS = 3;
const DATA = 4;
const FILL = 6;
const END = 7;

/** The kinds of channels that follow each other in a packet, for each channel configuration (table 1.19). */
const CHANNELS: number[][] = [
  [],
  [SINGLE],
  [PAIR],
  [SINGLE, PAIR],
  [SINGLE, PAIR, SINGLE],
  [SINGLE, PAIR, PAIR],
  [SINGLE, PAIR, PAIR, LOW_EFFECTS],
  [SINGLE, PAIR, PAIR, PAIR, LOW_EFFECTS],
];

/** Code books that stand for no spectrum: nothing, noise, and two for what the other side has. */
const NOTHING = 0;
const RESERVED = 12;
const NOISE = 13;

const EIGHT_SHORT = 2;
const SHORT_WINDOWS = 8;
const MOST_ORDER = 20;

/** One window, or the windows that share their scale factors, and their bands. */
interface Windows {
  isShort: boolean;
  /** How many windows each group has. */
  groups: number[];
  /** How many bands are coded. */
  bands: number;
  widths: number[];
}

class NotAac extends Error {}

/**
 * Finds where a packet of AAC (low complexity, 1024 samples; ISO/IEC 14496-3, 4.4.2) ends, by reading it as a decoder does, without its values.
 * @param from where it begins in the bytes
 * @returns how many bytes it has; null where none begins there, or the bytes end before it does
 */
export function aacPacketBytes(bytes: Uint8Array, from: number, layout: AacLayout): number | null {
  const bits = new BitReader(bytes, from);
  const channels = CHANNELS[layout.channelConfiguration] ?? [];
  try {
    readPacket(bits, channels, bandsAt(layout.rateHz), 8 * bytes.length);
  } catch (error) {
    if (error instanceof NotAac) return null;
    throw error;
  }
  return bits.byte > bytes.length ? null : bits.byte - from;
}

/** Tells whether packets of two tracks cannot be told apart by what they hold. */
export function isAlike(one: AacLayout, other: AacLayout): boolean {
  return (
    one.channelConfiguration === other.channelConfiguration && bandsAt(one.rateHz) === bandsAt(other.rateHz)
  );
}

function readPacket(bits: BitReader, channels: number[], bands: Bands, endBit: number): void {
  for (let channel = 0; ; ) {
    if (bits.at > endBit) throw new NotAac();
    const kind = bits.read(3);
    if (kind === END) {
      if (channel < channels.length) throw new NotAac();
      bits.align();
      return;
    }
    if (kind === FILL) skipFill(bits);
    else if (kind === DATA) skipData(bits);
    else {
      if (kind !== channels[channel]) throw new NotAac();
      channel += 1;
      bits.skip(4);
      if (kind === PAIR) readPair(bits, bands);
      else readChannel(bits, null, bands);
    }
  }
}

function skipFill(bits: BitReader): void {
  const count = bits.read(4);
  bits.skip(8 * (count === 15 ? 14 + bits.read(8) : count));
}

function skipData(bits: BitReader): void {
  bits.skip(4);
  const isAligned = bits.read(1) === 1;
  const count = bits.read(8);
  const more = count === 255 ? bits.read(8) : 0;
  if (isAligned) bits.align();
  bits.skip(8 * (count + more));
}

function readPair(bits: BitReader, bands: Bands): void {
  const windows = bits.read(1) === 1 ? readWindows(bits, bands) : null;
  if (windows) {
    const mask = bits.read(2);
    if (mask === 3) throw new NotAac();
    if (mask === 1) bits.skip(windows.groups.length * windows.bands);
  }
  readChannel(bits, windows, bands);
  readChannel(bits, windows, bands);
}

/** @param shared the windows that both channels of a pair have; null where it has its own */
function readChannel(bits: BitReader, shared: Windows | null, bands: Bands): void {
  bits.skip(8);
  const windows = shared ?? readWindows(bits, bands);
  const books = windows.groups.map(() => readBooks(bits, windows));
  skipScaleFactors(bits, books);
  if (bits.read(1) === 1) skipPulses(bits, windows);
  if (bits.read(1) === 1) skipNoiseShaping(bits, windows);
  // Gain control belongs to another profile.
  if (bits.read(1) === 1) throw new NotAac();
  skipSpectra(bits, windows, books);
}

function readWindows(bits: BitReader, bands: Bands): Windows {
  if (bits.read(1) === 1) throw new NotAac();
  const isShort = bits.read(2) === EIGHT_SHORT;
  bits.skip(1);
  const coded = bits.read(isShort ? 4 : 6);
  const widths = isShort ? bands.short : bands.long;
  if (coded > widths.length) throw new NotAac();
  const groups = [1];
  if (isShort)
    for (let i = 1; i < SHORT_WINDOWS; i++)
      if (bits.read(1) === 1) groups[groups.length - 1] += 1;
      else groups.push(1);
  // Prediction belongs to other profiles.
  else if (bits.read(1) === 1) throw new NotAac();
  return { isShort, groups, bands: coded, widths };
}

/** The code book of each band of a group: one book holds for several bands. */
function readBooks(bits: BitReader, { isShort, bands }: Windows): Uint8Array {
  const books = new Uint8Array(bands);
  const lengthBits = isShort ? 3 : 5;
  const goesOn = 2 ** lengthBits - 1;
  for (let band = 0; band < bands; ) {
    const book = bits.read(4);
    if (book === RESERVED) throw new NotAac();
    let end = band;
    let length: number;
    do {
      length = bits.read(lengthBits);
      end += length;
    } while (length === goesOn && end <= bands);
    if (end > bands || end === band) throw new NotAac();
    books.fill(book, band, end);
    band = end;
  }
  return books;
}

function skipScaleFactors(bits: BitReader, groups: Uint8Array[]): void {
  let isFirstNoise = true;
  for (const books of groups)
    for (const book of books)
      if (book === NOISE && isFirstNoise) {
        bits.skip(9);
        isFirstNoise = false;
      } else if (book !== NOTHING) SCALE_FACTORS.skipWord(bits);
}

function skipPulses(bits: BitReader, { isShort }: Windows): void {
  if (isShort) throw new NotAac();
  const count = bits.read(2) + 1;
  bits.skip(6 + 9 * count);
}

/** Temporal noise shaping. */
function skipNoiseShaping(bits: BitReader, { isShort }: Windows): void {
  const [filterBits, lengthBits, orderBits] = isShort ? [1, 4, 3] : [2, 6, 5];
  for (let window = isShort ? SHORT_WINDOWS : 1; window > 0; window--) {
    const filters = bits.read(filterBits);
    const valueBits = filters > 0 ? 3 + bits.read(1) : 0;
    for (let filter = 0; filter < filters; filter++) {
      bits.skip(lengthBits);
      const order = bits.read(orderBits);
      if (order > MOST_ORDER) throw new NotAac();
      if (order === 0) continue;
      bits.skip(1);
      bits.skip(order * (valueBits - bits.read(1)));
    }
  }
}

function skipSpectra(bits: BitReader, { groups, widths }: Windows, books: Uint8Array[]): void {
  groups.forEach((windows, group) => {
    books[group].forEach((book, band) => {
      if (book === NOTHING || book > SPECTRA.length) return;
      const words = (windows * widths[band]) / SPECTRA[book - 1].values;
      for (let i = 0; i < words; i++) SPECTRA[book - 1].skipWord(bits);
    });
  });
}
