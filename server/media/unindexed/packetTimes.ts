import type { FileHandle } from 'node:fs/promises';
import { LOOKED_AT, paceOf } from '../pace.ts';
import { DisplayOrder } from './displayOrder.ts';
import type { PacketLayout, WholeTrack } from './wholeRecording.ts';

/** So many pictures of the whole recording are put in order, to see whether that comes out as its index says; the last of them may wait for others. */
const TRIED = 900;
const MAY_WAIT = 32;
/** A packet of AAC has so many samples. */
const SAMPLES = 1024;
/** Packets whose times are rounded lie within so much (s) of where they would lie otherwise. */
const ROUNDED_S = 0.0021;

/** Where the packets of a track lie in a file (bytes). */
export interface PacketPlaces {
  offsets: number[];
  sizes: number[];
}

/** How long each packet of a track lasts (units, not necessarily whole); null where they last differently long. */
export function evenDuration({ durations, timescale, layout }: WholeTrack): number | null {
  // The last one lasts as long as is left.
  const [first, ...others] = durations.slice(0, Math.max(1, durations.length - 1));
  if (others.every((duration) => duration === first)) return first > 0 ? first : null;
  const times: number[] = [];
  let at = 0;
  for (const duration of durations) {
    times.push(at / timescale);
    at += duration;
  }
  const paceS = layout.kind === 'sound' ? SAMPLES / layout.rateHz : paceOf(times.slice(0, LOOKED_AT));
  if (paceS === null) return null;
  const isEven = times.every((time, n) => Math.abs(time - n * paceS) <= ROUNDED_S);
  return isEven ? paceS * timescale : null;
}

/**
 * Finds by how many places each picture of a track is shown later than it is decoded.
 * @param like the same track of the whole recording, on which this is tried
 * @returns null where it does not come out there as the index says; empty where each is shown at once
 */
export async function placesLater(
  layout: PacketLayout & { kind: 'picture' },
  like: { handle: FileHandle; track: WholeTrack; duration: number },
  found: { handle: FileHandle } & PacketPlaces,
  onPicture: (place: number) => void,
): Promise<number[] | null> {
  const { track, duration } = like;
  const [first] = track.shownLater;
  if (track.shownLater.every((later) => later === first))
    return first ? found.sizes.map(() => first / duration) : [];
  const tried = await orderOf(layout, like.handle, track, TRIED, () => {});
  const steps = tried
    .slice(0, -MAY_WAIT)
    .map((later, at) => Math.round(track.shownLater[at] / duration) - later);
  const [step] = steps;
  if (step === undefined || steps.some((one) => one !== step)) return null;
  const later = await orderOf(layout, found.handle, found, found.sizes.length, onPicture);
  if (later.length !== found.sizes.length) return null;
  return later.map((places) => places + step);
}

async function orderOf(
  { codec, description }: PacketLayout & { kind: 'picture' },
  handle: FileHandle,
  { offsets, sizes }: PacketPlaces,
  most: number,
  onPicture: (place: number) => void,
): Promise<number[]> {
  const order = new DisplayOrder(codec, description);
  try {
    for (let i = 0; i < Math.min(most, sizes.length); i++) {
      const { buffer } = await handle.read(Buffer.alloc(sizes[i]), 0, sizes[i], offsets[i]);
      order.add(buffer);
      onPicture(i);
    }
    order.finish();
    return order.later;
  } finally {
    order.close();
  }
}
