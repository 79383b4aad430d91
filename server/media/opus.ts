/** Where the head of a stream says how much its decoder gives before the sound itself (bytes; RFC 7845, 5.1). */
const PRE_SKIP_AT = 10;
/** Frames of one piece at 48 kHz, by the kind of a packet (RFC 6716, table 2): four lengths of each low-rate kind, two of the mixed, four of the rest. */
const SPEECH_FRAMES = [480, 960, 1920, 2880];
const MIXED_FRAMES = [480, 960];
const MUSIC_FRAMES = [120, 240, 480, 960];

/** How long a packet of Opus lasts (frames at 48 kHz), by its first bytes (RFC 6716, 3.1). Nothing where it is empty. */
export function opusFrames(packet: Uint8Array): number {
  if (packet.length === 0) return 0;
  const kind = packet[0] >> 3;
  const frames =
    kind < 12 ? SPEECH_FRAMES[kind % 4] : kind < 16 ? MIXED_FRAMES[kind % 2] : MUSIC_FRAMES[kind % 4];
  const code = packet[0] & 3;
  const pieces = code === 0 ? 1 : code < 3 ? 2 : (packet[1] ?? 0) & 63;
  return frames * pieces;
}

/** How much a decoder gives before the sound itself begins (frames at 48 kHz), by the head of the stream. */
export function opusPreSkip(head: Uint8Array | null): number {
  if (!head || head.length < PRE_SKIP_AT + 2) return 0;
  return head[PRE_SKIP_AT] | (head[PRE_SKIP_AT + 1] << 8);
}

/** A head of a stream that lets the decoder give all of it, from the first frame on: when packets come says already what is to be left out. */
export function withoutPreSkip(head: Uint8Array): Uint8Array {
  const whole = Uint8Array.from(head);
  if (whole.length >= PRE_SKIP_AT + 2) whole.fill(0, PRE_SKIP_AT, PRE_SKIP_AT + 2);
  return whole;
}
