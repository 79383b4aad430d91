import type { FileHandle } from 'node:fs/promises';
import { learnTurns } from '../../../core/unindexed/turns.ts';
import { listed } from '../../../core/words/figures.ts';
import { FileBytes } from '../fileBytes.ts';
import { MediaError } from '../mediaError.ts';
import { findPackets, type Likes, likesOf } from './findPackets.ts';
import { Interleaving } from './interleaving.ts';
import { evenDuration } from './packetTimes.ts';
import type { WholeRecording } from './wholeRecording.ts';

/** A packet of a recording that has its index. */
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
  return likesOf(whole.tracks).map((likes) => {
    const { tracks } = likes;
    const packetS = (track: number) =>
      (evenDuration(whole.tracks[track]) ?? Number.NaN) / whole.tracks[track].timescale;
    const sequence: number[] = [];
    for (const { track } of inFile(whole)) if (tracks.includes(track)) sequence.push(track);
    const rule = learnTurns(sequence, packetS);
    if (rule) return { ...likes, rule };
    const numbers = listed(tracks.map((track) => String(track + 1)));
    throw new MediaError(
      'unsupported',
      `${name} cannot help: its tracks ${numbers} look alike, and their packets follow no order by which Northfen could tell them apart. Choose another whole recording.`,
    );
  });
}

/**
 * Tries whether the packets of a recording are found again without its index. What is found in another by the same means can be trusted only then.
 * @returns how its packets lie, while no track has ended
 * @throws {MediaError} where one is not
 */
export async function tryOnItself(
  handle: FileHandle,
  whole: WholeRecording,
  likes: Likes[],
  name: string,
  onProgress: (share: number) => void,
): Promise<Interleaving> {
  const left = whole.tracks.map(({ sizes }) => sizes.length);
  const count = left.reduce((sum, one) => sum + one, 0);
  const { from, to } = mediaIn(whole);
  const interleaving = new Interleaving(whole.tracks);
  const packets = inFile(whole);
  let place = 0;
  for await (const found of findPackets(
    new FileBytes(handle, to),
    { from, to },
    likes,
    (track) => left[track] === 0,
  )) {
    const next = packets.next();
    if (next.done || next.value.track !== found.track) break;
    const { track, at, size } = next.value;
    if (found.at !== at || found.size !== size) break;
    if (left.every((packetsLeft, one) => packetsLeft > 0 || whole.tracks[one].sizes.length === 0))
      interleaving.took(track, found.kind);
    left[track] -= 1;
    place += 1;
    onProgress((at - from) / (to - from));
  }
  if (place < count || place === 0)
    throw new MediaError(
      'unsupported',
      `${name} cannot help: read without its own index, only ${place} of its ${count} packets were found again, so what is found in the damaged recording could not be trusted. Choose another whole recording.`,
    );
  return interleaving;
}

/** Where the first packet of a recording begins, and the last one ends. */
function mediaIn({ tracks }: WholeRecording): { from: number; to: number } {
  let [from, to] = [Number.POSITIVE_INFINITY, 0];
  for (const { offsets, sizes } of tracks) {
    if (offsets.length === 0) continue;
    from = Math.min(from, offsets[0]);
    to = Math.max(to, offsets[offsets.length - 1] + sizes[sizes.length - 1]);
  }
  return { from: Math.min(from, to), to };
}

/** The packets of all tracks in the order in which they lie in the file. */
function* inFile({ tracks }: WholeRecording): Generator<InFile, undefined> {
  const places = tracks.map(() => 0);
  for (;;) {
    let [track, at] = [-1, Number.POSITIVE_INFINITY];
    for (let one = 0; one < tracks.length; one++) {
      const offset = tracks[one].offsets[places[one]] ?? Number.POSITIVE_INFINITY;
      if (offset < at) [track, at] = [one, offset];
    }
    if (track < 0) return;
    yield { track, at, size: tracks[track].sizes[places[track]] };
    places[track] += 1;
  }
}
