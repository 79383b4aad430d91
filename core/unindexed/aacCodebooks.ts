import type { BitReader } from './bitReader.ts';

/**
 * The code books of AAC (ISO/IEC 14496-3, tables 4.A.1 to 4.A.12), as far as the length of a packet hangs on them: how many words they have of
 * each length, and what follows each word. Their words count upwards as they grow longer, so that no more is needed.
 */
export class Codebook {
  /** How many values a word stands for. */
  readonly values: number;
  private readonly longest: number;
  /** By the next bits, as many as the longest word has: how many bits a word and its signs have, and how many escapes come behind it. */
  private readonly table: Uint8Array;

  /**
   * @param counts how many words there are of one bit, of two, and so on
   * @param follows for each word, from the first on: how many signs come behind it, and five more for each escape; null where nothing follows
   */
  constructor(values: number, counts: number[], follows: Uint8Array | null = null) {
    this.values = values;
    this.longest = counts.length;
    this.table = new Uint8Array(2 ** this.longest);
    let [number, from] = [0, 0];
    counts.forEach((count, at) => {
      const span = 2 ** (this.longest - at - 1);
      for (let i = 0; i < count; i++) {
        const follow = follows?.[number] ?? 0;
        const escapes = Math.floor(follow / FOR_ESCAPE);
        this.table.fill(at + 1 + (follow % FOR_ESCAPE) + escapes * ESCAPE, from, from + span);
        number += 1;
        from += span;
      }
    });
  }

  /** Reads over a word and what follows it. */
  skipWord(bits: BitReader): void {
    const found = this.table[bits.peek(this.longest)];
    bits.skip(found % ESCAPE);
    for (let left = found; left >= ESCAPE; left -= ESCAPE) skipEscape(bits);
  }
}

/** Where a table says how many escapes there are: no word has so many bits, with its signs. */
const ESCAPE = 32;
/** What stands for an escape among what follows a word. */
const FOR_ESCAPE = 5;
/** No value has more bits than this behind its escape (its standard's largest is 8191). */
const MOST_ESCAPED_BITS = 12;

/** An escape: as many ones as its value has bits beyond four, a zero, and the value without its first bit. */
function skipEscape(bits: BitReader): void {
  let more = 4;
  while (bits.read(1) === 1 && more < MOST_ESCAPED_BITS) more += 1;
  bits.skip(more);
}

/** What follows the words of a book, a hexadecimal digit each. */
function follow(...digits: string[]): Uint8Array {
  return Uint8Array.from(digits.join(''), (digit) => Number.parseInt(digit, 16));
}

/** Books 1 to 11, for spectra. */
export const SPECTRA = [
  new Codebook(4, [1, 0, 0, 0, 8, 0, 24, 0, 24, 8, 16]),
  new Codebook(4, [0, 0, 1, 1, 7, 24, 15, 19, 14]),
  new Codebook(
    4,
    [1, 0, 0, 4, 2, 6, 3, 5, 15, 15, 8, 9, 3, 3, 5, 2],
    follow('011112222232343311223232331221224334323244332333223243344233333344442233434443233'),
  ),
  new Codebook(
    4,
    [0, 0, 0, 10, 6, 0, 9, 21, 8, 14, 11, 2],
    follow('433331202222121144443333333333332222222222221111444444333333333433344422222243333'),
  ),
  new Codebook(2, [1, 0, 0, 4, 4, 0, 4, 12, 12, 12, 18, 10, 4]),
  new Codebook(2, [0, 0, 0, 9, 0, 16, 13, 8, 23, 8, 4]),
  new Codebook(
    2,
    [1, 0, 2, 1, 0, 4, 5, 10, 14, 15, 8, 4],
    follow('0112221122211222222221122212122222222211222222222222112222222222'),
  ),
  new Codebook(
    2,
    [0, 0, 1, 5, 7, 10, 14, 15, 8, 4],
    follow('2212120112222222221122222222221212222222121222222222221212222112'),
  ),
  new Codebook(
    2,
    [1, 0, 2, 1, 0, 4, 3, 8, 11, 20, 31, 38, 32, 14, 4],
    follow(
      '011222112221122222222112222222121222222221222222221222122221222211222222222222212221222222',
      '2222222222222212212222222122222222222222212212222122222222222222222222222222222',
    ),
  ),
  new Codebook(
    2,
    [0, 0, 0, 3, 8, 14, 17, 25, 31, 41, 22, 8],
    follow(
      '222211222221122220221122222222222212122222222222212122222222222222222212222212222222222222',
      '2222121222222212222221222222222222222221212122222222222222212122212221222222122',
    ),
  ),
  new Codebook(
    2,
    [0, 0, 0, 2, 6, 7, 16, 59, 55, 95, 43, 6],
    follow(
      '02c112222221212222222112222222222222227777727121727777222227722777227277727227722217722221',
      '277227272222222722122222212222222222222212222222222262222226212222222222222222222222222222',
      '221222222222222222222122222222222222222222222222211222222222222222222222222221221212221222',
      '2211222212212112112',
    ),
  ),
];

/** The book for the differences between scale factors. */
export const SCALE_FACTORS = new Codebook(1, [1, 0, 1, 3, 2, 4, 3, 5, 4, 6, 6, 6, 5, 8, 4, 7, 3, 7, 46]);
