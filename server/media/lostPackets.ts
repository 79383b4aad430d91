import {
  ADTS,
  type EncodedPacket,
  type EncodedPacketSink,
  type Input,
  type InputTrack,
  MATROSKA,
  OGG,
  WEBM,
} from 'mediabunny';
import { holesIn, tailOf } from './openInput.ts';

/** What is missing between packets for longer than this (s) may have been lost. */
const LOST_S = 0.25;
/** So much may be left out at the end (s): an index is no finer. */
const MOST_LEFT_OUT_S = 1;

/** Tells whether what lies between two packets of a track was lost from the file, and not left out by whoever recorded. Mostly at once. */
export function isLostBetween(
  { input }: InputTrack,
  before: EncodedPacket,
  next: EncodedPacket,
): false | Promise<boolean> {
  const endS = before.timestamp + before.duration;
  return next.timestamp - endS > LOST_S && isHoleBetween(input, endS, next.timestamp);
}

async function isHoleBetween(input: Input, fromS: number, toS: number): Promise<boolean> {
  const format = await input.getFormat();
  if (format !== MATROSKA && format !== WEBM) return false;
  return (await holesIn(input)?.isHoleBetween(fromS, toS)) ?? false;
}

/** The last packet of raw AAC lies within so many bytes of its end: tags of a few lines may follow it. */
const TAIL_BYTES = 1 << 16;

/**
 * Tells whether there is more of a track behind the packet that was read last. Behind a damaged place, the media library may take a file of
 * Matroska or Ogg for ended; its index, or its last page, shows that it is not. Raw AAC is ended where its last bytes were read.
 */
export async function isEndLost(
  { input }: InputTrack,
  sink: EncodedPacketSink,
  read: EncodedPacket | null,
): Promise<boolean> {
  const format = await input.getFormat();
  if (format === ADTS) return read !== null && (await tailOf(input, TAIL_BYTES)).indexOf(read.data) < 0;
  if (format !== MATROSKA && format !== WEBM && format !== OGG) return false;
  const last = await sink.getPacket(Number.POSITIVE_INFINITY).catch(() => null);
  if (!last || !read) return last !== null;
  // Where a pause left out time, Ogg counts it at the end alone: then it is the same packet.
  return last.timestamp > read.timestamp + MOST_LEFT_OUT_S && Buffer.compare(last.data, read.data) !== 0;
}
