import { basename } from 'node:path';
import type { Input } from 'mediabunny';
import { beginFile, isIndexed, refuseUnfit } from '../media/containers.ts';
import { refuseUnreadable } from '../media/foreign.ts';
import { MediaError, orDamaged } from '../media/mediaError.ts';
import { refuseSeveral } from '../media/oneRecording.ts';
import { openInput } from '../media/openInput.ts';
import { openCopies, type TrackCopies } from '../media/trackCopies.ts';
import { beginTogether, copyAll, type TrackCopy } from '../media/trackCopy.ts';

/** What was written of one track. */
export interface RemuxedTrack {
  kind: 'audio' | 'video';
  codec: string;
  name: string | null;
  packets: number;
}

/** What a rewrapped file holds, and which tracks of the original it does not hold, with why. */
export interface Remuxed {
  tracks: RemuxedTrack[];
  left: string[];
}

/**
 * Puts a recording into another container: every packet as it is, with names, languages and marks of its tracks; nothing is coded again.
 * MP4 and MOV have their index in front.
 * @throws {MediaError} when it cannot be read, is damaged, or the container cannot hold what is in it
 */
export async function remux(
  path: string,
  outPath: string,
  onProgress: (share: number) => void = () => {},
): Promise<Remuxed> {
  await refuseSeveral(path);
  return orDamaged(path, () => write(path, outPath, onProgress));
}

async function write(path: string, outPath: string, onProgress: (share: number) => void): Promise<Remuxed> {
  const file = await beginFile(outPath, path);
  const input = await openInput(path);
  try {
    const { copies: usable, left } = await copiesOf(input, path);
    if (usable.length === 0)
      throw new MediaError('no-audio', `${basename(path)} holds neither sound nor picture that can be read.`);
    refuseUnfit(file, usable, outPath);
    for (const copy of usable) await copy.addTo(file.writer);
    await file.writer.start();
    const lengthS = Math.max(0.001, await input.computeDuration());
    beginTogether([usable], isIndexed(outPath));
    await copyAll(usable, (atS) => onProgress(file.copiedShare * Math.min(1, Math.max(0, atS / lengthS))));
    refuseBroken(usable, path);
    await file.finish(onProgress);
    return {
      tracks: usable.map(({ track, codec, name, packets }) => ({
        kind: track.isAudioTrack() ? 'audio' : 'video',
        codec,
        name,
        packets,
      })),
      left,
    };
  } finally {
    input.dispose();
    await file.drop();
  }
}

/** The tracks of a file, for copying. @throws {MediaError} when it cannot be read */
export async function copiesOf(input: Input, path: string): Promise<TrackCopies> {
  try {
    return await openCopies(input);
  } catch {
    await refuseUnreadable(path);
    throw new MediaError(
      'unreadable',
      `${basename(path)} cannot be read as a recording. Check the file, or repair it first.`,
    );
  }
}

/** @throws {MediaError} where a copy broke off before its end */
export function refuseBroken(copies: TrackCopy[], path: string): void {
  const broken = copies.find(({ brokeOff }) => brokeOff !== null);
  if (broken)
    throw new MediaError(
      'broken',
      `${basename(path)} is damaged near ${broken.endS.toFixed(1)} s. Repair it first; that writes all that can be read.`,
    );
}
