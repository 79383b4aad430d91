/** No coder puts off a picture behind more others than this: 16 frames, each of two halves (ITU-T H.264, H.265). */
const MOST_LATE = 32;

/** A packet that waits for its time, and when it is shown. */
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
 * earlier. The times of decoding are those of showing in their own order, later by as many pictures as a decoder must hold back, so that none
 * is shown before it is decoded.
 */
export class DecodeTimes<Packet> {
  private readonly waiting: Waiting<Packet>[] = [];
  /** The times of showing that were not used yet, from the first on. */
  private readonly times: number[] = [];
  /** How many pictures a decoder holds back; not known until the first of them are there. */
  private heldBack: number | null = null;
  /** How long a picture lasts, for those that are decoded before the first is shown. */
  private lasts = 1;
  private released = 0;
  private last = Number.NEGATIVE_INFINITY;

  /** Takes a packet, and returns those whose time is known now. */
  add(packet: Packet, shownAt: number, lasts: number): Timed<Packet>[] {
    if (this.waiting.length === 0 && this.released === 0) this.lasts = lasts;
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
    this.heldBack ??= mostHeldBack(this.waiting);
    // A picture that is held back longer than those at the beginning: all before it are decoded in time for it.
    const latest = Math.min(...this.waiting.map(({ shownAt }, ahead) => shownAt - ahead));
    const early = this.heldBack - this.released;
    const inOrder = early > 0 ? this.times[0] - early * this.lasts : (this.times.shift() as number);
    const one = this.waiting.shift() as Waiting<Packet>;
    this.released += 1;
    // No two are decoded at once.
    this.last = Math.max(Math.min(inOrder, latest), this.last + 1);
    return { ...one, shownAt: Math.max(one.shownAt, this.last), decodedAt: this.last };
  }
}

/** Behind how many that are shown later a picture comes, at most. */
function mostHeldBack(pictures: Waiting<unknown>[]): number {
  const behind = pictures.map(
    ({ shownAt }, at) => pictures.slice(0, at).filter((before) => before.shownAt > shownAt).length,
  );
  return Math.max(...behind);
}
