import { stat } from 'node:fs/promises';
import { type EncodedPacket, EncodedPacketSink, type Input, type InputTrack, MP3 } from 'mediabunny';
import type { BreakOff } from '../../core/check/recording.ts';
import { AudioFile } from './audioFile.ts';
import { beginningOf, openInput } from './openInput.ts';
import { shareOfWav } from './wavShare.ts';
import { hasWholeStructure } from './wholeStructure.ts';

/** A recording counts as whole where so much of what it promises is missing at most (s, and as a share of it). */
const MISSING_S = 2;
const MISSING_SHARE = 0.01;

/**
 * Tells where a recording breaks off, although it says that it goes on: it was cut off, or lost its end.
 * @param saidS how long it says that it is (s); of a WAV, what is there of it
 * @param readS how much of it could be read of the tracks that were looked at (s): they may end earlier than others
 * @returns null where it is whole
 */
export async function breakOffOf(path: string, saidS: number, readS: number): Promise<BreakOff | null> {
  const share = await shareOfWav(path, (await stat(path)).size);
  const promisedS = share ? (readS || saidS) / share : saidS;
  const wholeS = promisedS - Math.max(MISSING_S, MISSING_SHARE * promisedS);
  if (readS > 0 && readS >= wholeS) return null;
  // Subtitles may outlast all else, and lengths may be wrong.
  if (readS > 0 && (await hasWholeStructure(path))) return null;
  const input = await openInput(path).catch(() => null);
  try {
    // How long an MP3 is, is only an estimate by its first part.
    if (input && (await input.getFormat().catch(() => null)) === MP3) return null;
    const endS = Math.max(readS, input ? await lastOf(input, promisedS) : 0);
    return endS > 0 && endS >= wholeS ? null : { atS: endS, promisedS };
  } finally {
    input?.dispose();
  }
}

/** Tells where a file breaks off, by what it says itself. @throws {MediaError} where it cannot be opened */
export async function breakOffOfFile(path: string): Promise<BreakOff | null> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  if (await hasWholeStructure(path)) return null;
  return breakOffOf(path, Math.max(0, ...file.tracks.map(({ durationS }) => durationS)), 0);
}

/** Where the last packet of any track ends that is really there (s after its beginning), up to where the recording says that it ends; 0 where there is none. */
async function lastOf(input: Input, promisedS: number): Promise<number> {
  const startS = await beginningOf(input).catch(() => 0);
  const tracks = await input.getTracks().catch((): InputTrack[] => []);
  let endS = 0;
  for (const track of tracks) {
    const sink = new EncodedPacketSink(track);
    // An index may name packets that are not there any more: then the packet cannot be read.
    const last = (await sink.getPacket(startS + promisedS).catch(() => null)) ?? (await lastRead(sink));
    if (last) endS = Math.max(endS, last.timestamp + last.duration - startS);
  }
  return endS;
}

/** The last packet that can be read, one after the other. */
async function lastRead(sink: EncodedPacketSink): Promise<EncodedPacket | null> {
  let last: EncodedPacket | null = null;
  let next = await sink.getFirstPacket().catch(() => null);
  while (next) {
    last = next;
    next = await sink.getNextPacket(next).catch(() => null);
  }
  return last;
}
