import { type FileHandle, open, stat } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { bytesText, clockText, listed } from '../../../core/words/figures.ts';
import { FileBytes } from '../fileBytes.ts';
import type { ReadAs } from '../fileSource.ts';
import { MediaError } from '../mediaError.ts';
import { findPackets, type Likes } from './findPackets.ts';
import { areLaidOtherwise, Interleaving, runApart } from './interleaving.ts';
import { mediaOf } from './mediaOf.ts';
import { type FoundTrack, frontLike } from './newIndex.ts';
import { evenDuration, type PacketPlaces, placesLater } from './packetTimes.ts';
import { learnLikes, tryOnItself } from './tryOnItself.ts';
import { orDamaged, readWhole, type WholeTrack } from './wholeRecording.ts';

/** How a file without an index is read, by one that was made for it. */
export interface RebuiltIndex {
  readAs: ReadAs;
  /** What is not in it, each by what it is and why. */
  left: string[];
  /** What is to be known of it, in sentences. */
  notes: string[];
}

/** What part of the work trying is, and finding; the rest is putting pictures in order. */
const TRYING = 0.4;
const FINDING = 0.4;

/**
 * Makes an index for an MP4 or MOV that has lost its own, going by a whole recording of the same program and settings: its packets are found by where each ends,
 * and given to the tracks in the order that they have there.
 * @throws {MediaError} where the whole recording cannot serve, or nothing is found by it
 */
export async function rebuildIndex(
  path: string,
  wholePath: string,
  onProgress: (share: number) => void = () => {},
): Promise<RebuiltIndex> {
  const [name, wholeName] = [basename(path), basename(wholePath)];
  if (resolve(path) === resolve(wholePath))
    throw new MediaError('unsupported', `${name} cannot help to repair itself. Choose a whole recording.`);
  const info = await stat(wholePath).catch(() => null);
  if (!info?.isFile()) throw new MediaError('unreadable', `There is no file ${wholeName}. Check the path.`);
  const whole = await readWhole(wholePath);
  const [damaged, intact] = [await open(path), await open(wholePath)];
  try {
    const likes = learnLikes(whole, wholeName);
    const laid = await tryOnItself(intact, whole, likes, wholeName, (share) => onProgress(TRYING * share));
    const media = await mediaOf(damaged, whole.leadBytes, name);
    const found = await find(damaged, media, likes, whole.tracks, (share) =>
      onProgress(TRYING + FINDING * share),
    );
    if (found.endsAt === media.from)
      throw new MediaError(
        'unreadable',
        `Nothing in ${name} looks like ${wholeName}. Choose a whole recording made by the same program with the same settings.`,
      );
    refuseOther(found.laid, laid, name, wholeName);
    const left: string[] = [];
    const tracks: FoundTrack[] = [];
    for (const [at, like] of whole.tracks.entries()) {
      const packets = found.tracks[at];
      if (packets.sizes.length === 0) continue;
      const timed = await timedTrack(
        like,
        packets,
        wholeName,
        { intact, damaged, from: media.from },
        (share) => onProgress(TRYING + FINDING + (1 - TRYING - FINDING) * share),
      );
      if (typeof timed === 'string') left.push(`${trackName(whole.tracks, at)}, because ${timed}`);
      else tracks.push(timed);
    }
    if (tracks.length === 0)
      throw new MediaError('unreadable', `Nothing of ${name} can be saved: ${left.join('; ')}.`);
    const lost = media.to - found.endsAt;
    if (lost > 0) left.push(`the last ${bytesText(lost)}, because they hold no whole packet`);
    const bytes = await orDamaged(wholeName, () => frontLike(whole, tracks, found.endsAt - media.from));
    const notes = likes.flatMap(({ tracks }) => toldApart(tracks, whole.tracks, wholeName));
    return { readAs: [{ bytes }, { from: media.from, to: found.endsAt }], left, notes };
  } finally {
    await damaged.close();
    await intact.close();
  }
}

/** @throws {MediaError} where what was found does not lie as in the whole recording: then packets may have been given to the wrong tracks */
function refuseOther(found: Interleaving, whole: Interleaving, name: string, wholeName: string): void {
  if (areLaidOtherwise(found, whole))
    throw new MediaError(
      'unsupported',
      `Sound and picture lie in other portions in ${name} than in ${wholeName}. Choose a whole recording that comes straight from the same program, with the same settings.`,
    );
  if (runApart(found, whole))
    throw new MediaError(
      'unsupported',
      `Read the way ${wholeName} is written, the tracks of ${name} drift ${found.mostApartS.toFixed(1)} s apart within ${clockText(found.atS)}. Either it was made with other settings, or pictures are missing from it. Choose a whole recording with the same number of tracks and the same frame rate.`,
    );
}

interface Found {
  tracks: (PacketPlaces & { keys: number[] })[];
  /** Where the last whole packet ends. */
  endsAt: number;
  laid: Interleaving;
}

async function find(
  handle: FileHandle,
  media: { from: number; to: number },
  likes: Likes[],
  whole: WholeTrack[],
  onProgress: (share: number) => void,
): Promise<Found> {
  const laid = new Interleaving(whole);
  const tracks = whole.map(() => ({
    offsets: [] as number[],
    sizes: [] as number[],
    keys: [] as number[],
  }));
  let endsAt = media.from;
  for await (const { track, kind, at, size, isKey } of findPackets(
    new FileBytes(handle, media.to),
    media,
    likes,
  )) {
    const one = tracks[track];
    one.offsets.push(at);
    one.sizes.push(size);
    if (isKey) one.keys.push(one.sizes.length);
    laid.took(track, kind);
    endsAt = at + size;
    onProgress((endsAt - media.from) / (media.to - media.from));
  }
  return { tracks, endsAt, laid };
}

/** Gives the packets of a track their times. @returns why that cannot be done, where it cannot */
async function timedTrack(
  like: WholeTrack,
  packets: PacketPlaces & { keys: number[] },
  wholeName: string,
  files: { intact: FileHandle; damaged: FileHandle; from: number },
  onProgress: (share: number) => void,
): Promise<FoundTrack | string> {
  const { layout } = like;
  const { sizes, keys } = packets;
  const duration = evenDuration(like);
  if (duration === null)
    return layout.kind === 'sound'
      ? `in ${wholeName} its packets are not equally long, so nothing says when each one plays`
      : `in ${wholeName} the frame rate varies, or there are too few pictures, so nothing says when each one is shown`;
  const timeOf = (place: number) => Math.round(place * duration);
  const later =
    layout.kind === 'sound'
      ? []
      : await placesLater(
          layout,
          { handle: files.intact, track: like, duration },
          { handle: files.damaged, ...packets },
          (place) => onProgress(place / sizes.length),
        );
  if (!later) return `the order in which its pictures are shown cannot be worked out from ${wholeName}`;
  return {
    like,
    sizes,
    offsets: packets.offsets.map((at) => at - files.from),
    times: sizes.map((_, at) => timeOf(at)),
    shownLater: later.map((places, at) => timeOf(at + places) - timeOf(at)),
    lastDuration: timeOf(sizes.length) - timeOf(sizes.length - 1),
    keys: layout.kind === 'sound' ? null : keys,
  };
}

/** What a track is called: by its number among those of its kind. */
function trackName(tracks: WholeTrack[], at: number): string {
  const { kind } = tracks[at].layout;
  const number = tracks.slice(0, at + 1).filter(({ layout }) => layout.kind === kind).length;
  return `${kind === 'sound' ? 'audio' : 'video'} track ${number}`;
}

/** Says which tracks could be told apart by their order alone. */
function toldApart(alike: number[], tracks: WholeTrack[], wholeName: string): string[] {
  if (alike.length < 2) return [];
  const names = alike.map((track) => trackName(tracks, track));
  return [
    `Tracks that look alike: ${listed(names)}. Only their order in ${wholeName} tells which is which; listen to each before you use it.`,
  ];
}
