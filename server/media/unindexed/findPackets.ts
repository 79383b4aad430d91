import { isAlike } from '../../../core/unindexed/aacPacket.ts';
import { type TurnRule, Turns } from '../../../core/unindexed/turns.ts';
import type { FileBytes } from '../fileBytes.ts';
import { type PacketEnd, PacketEnds } from './packetEnds.ts';
import type { PacketLayout, WholeTrack } from './wholeRecording.ts';

/** Tracks whose packets cannot be told apart by what they hold: they take turns. */
export interface Likes {
  layout: PacketLayout;
  /** By their place in the recording. */
  tracks: number[];
  /** The largest packet of any of them in the whole recording (bytes). */
  largest: number;
  rule: TurnRule;
}

/** A packet that was found. */
export interface FoundPacket {
  track: number;
  /** Which of the kinds it is that can be told apart by what they hold. */
  kind: number;
  at: number;
  size: number;
  isKey: boolean;
}

/** Tells which tracks are alike. */
export function likesOf(tracks: WholeTrack[]): Omit<Likes, 'rule'>[] {
  const all: Omit<Likes, 'rule'>[] = [];
  tracks.forEach(({ layout, sizes }, track) => {
    const largest = sizes.reduce((most, size) => Math.max(most, size), 0);
    const likes = all.find((one) => areAlike(one.layout, layout));
    if (likes) {
      likes.tracks.push(track);
      likes.largest = Math.max(likes.largest, largest);
    } else all.push({ layout, tracks: [track], largest });
  });
  return all;
}

function areAlike(one: PacketLayout, other: PacketLayout): boolean {
  if (one.kind === 'picture' || other.kind === 'picture') return one.kind === other.kind;
  return isAlike(one, other);
}

/**
 * Finds the packets of media one behind the other, by where each ends, up to the first place where none begins.
 * @param isOver tells whether a track has no more packets, of a recording that is known
 */
export async function* findPackets(
  bytes: FileBytes,
  { from, to }: { from: number; to: number },
  likes: Likes[],
  isOver?: (track: number) => boolean,
): AsyncGenerator<FoundPacket> {
  const kinds = likes.map(({ layout, largest, rule }) => ({
    ends: new PacketEnds(bytes, layout, to, largest),
    turns: new Turns(rule),
  }));
  const endsFrom = async (at: number) => {
    const found: (PacketEnd | null)[] = [];
    for (const { ends } of kinds) found.push(await ends.of(at));
    return found;
  };
  let ends = await endsFrom(from);
  for (let at = from; at < to; ) {
    const goesOn = async (end: number) => (isOver && end === to) || (await endsFrom(end)).some(Boolean);
    const kind = await likeliest(ends, goesOn);
    const end = ends[kind];
    if (!end) return;
    const behind = await endsFrom(end.endsAt);
    // Where nothing begins behind a picture, more of it may be missing.
    const isLast = !behind.some(Boolean);
    if (isLast && likes[kind].layout.kind === 'picture' && !(isOver && end.endsAt === to)) return;
    const { turns } = kinds[kind];
    const track = turns.next(isOver);
    turns.took(track);
    yield { track, kind, at, size: end.endsAt - at, isKey: end.isKey };
    at = end.endsAt;
    ends = behind;
  }
}

/** Of what may begin at a place, that behind which something begins again; else the first. */
async function likeliest(
  ends: (PacketEnd | null)[],
  goesOn: (end: number) => Promise<boolean>,
): Promise<number> {
  const possible = ends.flatMap((end, kind) => (end ? [{ kind, end }] : []));
  if (possible.length > 1) for (const { kind, end } of possible) if (await goesOn(end.endsAt)) return kind;
  return possible[0]?.kind ?? -1;
}
