import type { FileHandle } from 'node:fs/promises';
import { learnTurns } from '../../../core/unindexed/turns.ts';
import { listed } from '../../../core/words/figures.ts';
import { FileBytes } from '../fileBytes.ts';
import { MediaError } from '../mediaError.ts';
import { findPackets, type Likes, likesOf } from './findPackets.ts';
import { evenDuration } from './packetTimes.ts';
import { Spread } from './spread.ts';
import type { WholeRecording } from './wholeRecording.ts';

/** The packets of all tracks in the order in which they lie in the file. */
interface InFile {
  track: number;
  at: number;
  size: number;
}

/**
 * Learns which tracks of a recording are alike, and how those take turns.
 * @throws {MediaError} where that follows no rule
 */
export function learnLikes(whole: WholeRecording, name: string): Likes[] {
  const packets = inFile(whole);
  return likesOf(whole.tracks).map((likes) => {
    const { tracks } = likes;
    const packetS = (track: number) =>
      (evenDuration(whole.tracks[track]) ?? Number.NaN) / whole.tracks[track].timescale;
    const sequence = packets.map(({ track }) => track).filter((track) => tracks.includes(track));
    const rule = learnTurns(sequence, packetS);
    if (rule) return { ...likes, rule };
    const numbers = listed(tracks.map((track) => String(track + 1)));
    throw new MediaError(
      'unsupported',
      `${name} cannot serve: the packets of its tracks ${numbers} are alike, and lie in no order by which one could be told from another.`,
    );
  });
}

/**
 * Tries whether the packets of a recording are found again without its index. What is found in another by the same means can be trusted only then.
 * @returns how far its tracks are apart at most (s), while none has ended
 * @throws {MediaError} where one is not
 */
export async function tryOnItself(
  handle: FileHandle,
  whole: WholeRecording,
  likes: Likes[],
  name: string,
  onProgress: (share: number) => void,
): Promise<number> {
  const packets = inFile(whole);
  const left = whole.tracks.map(({ sizes }) => sizes.length);
  const from = packets[0]?.at ?? 0;
  const last = packets.at(-1);
  const to = last ? last.at + last.size : from;
  const spread = new Spread(whole.tracks);
  let place = 0;
  for await (const found of findPackets(
    new FileBytes(handle, to),
    { from, to },
    likes,
    (track) => left[track] === 0,
  )) {
    const { track, at, size } = packets[place];
    if (found.track !== track || found.at !== at || found.size !== size) break;
    if (left.every((count) => count > 0)) spread.took(track);
    left[track] -= 1;
    place += 1;
    onProgress((at - from) / (to - from));
  }
  if (place < packets.length || place === 0)
    throw new MediaError(
      'unsupported',
      `${name} cannot serve: tried on itself, only ${place} of its ${packets.length} packets were found again without its index, so that nothing found in the damaged one could be trusted.`,
    );
  return spread.mostS;
}

function inFile({ tracks }: WholeRecording): InFile[] {
  return tracks
    .flatMap(({ offsets, sizes }, track) => offsets.map((at, i) => ({ track, at, size: sizes[i] })))
    .sort((one, other) => one.at - other.at);
}
