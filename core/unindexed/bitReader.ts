/** Reads bits from the first of a byte on, the highest first; what lies behind the end reads as zeros. */
export class BitReader {
  private readonly bytes: Uint8Array;
  /** The bit that is next. */
  at: number;

  constructor(bytes: Uint8Array, fromByte = 0) {
    this.bytes = bytes;
    this.at = 8 * fromByte;
  }

  /** The next bits, without going on. @param count 24 at most */
  peek(count: number): number {
    const { bytes } = this;
    const byte = this.at >>> 3;
    const word = (bytes[byte] << 24) | (bytes[byte + 1] << 16) | (bytes[byte + 2] << 8) | bytes[byte + 3];
    return (word << (this.at & 7)) >>> (32 - count);
  }

  /** @param count 1 to 24 */
  read(count: number): number {
    const value = this.peek(count);
    this.at += count;
    return value;
  }

  skip(count: number): void {
    this.at += count;
  }

  /** Goes on to where a byte begins. */
  align(): void {
    this.at = 8 * this.byte;
  }

  /** How many bytes have been begun. */
  get byte(): number {
    return Math.ceil(this.at / 8);
  }

  /** A number whose zeros in front say how many bits it has (ue(v) of ITU-T H.264 and H.265); 24 bits at most. */
  readGolomb(): number {
    let zeros = 0;
    while (zeros < 12 && this.read(1) === 0) zeros += 1;
    return zeros === 0 ? 0 : (1 << zeros) - 1 + this.read(zeros);
  }
}
