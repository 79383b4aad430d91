/** No coder puts off a picture behind more others than this: 16 frames, each of two halves (ITU-T H.264, H.265). */
const MOST_LATE = 32;

/** A packet that waits for its time. */
interface Waiting<Packet> {
  packet: Packet;
  shownAt: number;
}

/** A packet, when it is shown, and when it is decoded (in units of the track; whole numbers). */
export interface Timed<Packet> extends Waiting<Packet> {
  decodedAt: number;
}

/**
 * Finds when packets are decoded, from when they are shown: they come in the order of decoding, and some are shown before others that came
 * earlier. The times of decoding are those of showing in their own order, so that a packet may be shown before it is decoded; who writes it moves
 * all of them by the same span.
 */
export class DecodeTimes<Packet> {
  private readonly waiting: Waiting<Packet>[] = [];
  /** The times of showing that were not used yet, from the first on. */
  private readonly times: number[] = [];
  private last = Number.NEGATIVE_INFINITY;

  /** Takes a packet, and returns those whose time is known now. */
  add(packet: Packet, shownAt: number): Timed<Packet>[] {
    this.waiting.push({ packet, shownAt });
    let at = this.times.length;
    while (at > 0 && this.times[at - 1] > shownAt) at -= 1;
    this.times.splice(at, 0, shownAt);
    return this.waiting.length > MOST_LATE ? [this.next()] : [];
  }

  /** Returns all that wait still. */
  flush(): Timed<Packet>[] {
    return Array.from({ length: this.waiting.length }, () => this.next());
  }

  private next(): Timed<Packet> {
    const one = this.waiting.shift() as Waiting<Packet>;
    // No two are decoded at once.
    this.last = Math.max(this.times.shift() as number, this.last + 1);
    return { ...one, decodedAt: this.last };
  }
}
