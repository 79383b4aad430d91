import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { type Input, OGG } from 'mediabunny';
import type { RepairedTrack } from '../../core/deliver/repair.ts';
import { beginFile, isIndexed, refuseUnfit } from './containers.ts';
import { refuseUnreadable } from './foreign.ts';
import { refuseOver } from './keepOriginals.ts';
import { MediaError } from './mediaError.ts';
import { secondRecordingAt } from './oneRecording.ts';
import { openInput } from './openInput.ts';
import { openCopies, type TrackCopies } from './trackCopies.ts';
import { beginTogether, copyAll, type TrackCopy } from './trackCopy.ts';
import { rebuildIndex } from './unindexed/rebuildIndex.ts';

/** What part of the work it is to find packets without an index. */
const REBUILDING = 0.5;

export interface Repaired {
  tracks: RepairedTrack[];
  /** Tracks of which nothing could be saved, by what is wrong with each. */
  left: string[];
  /** What is to be known of what was saved, in sentences. */
  notes: string[];
}

/**
 * Writes a recording anew, with an index, up to its last whole packet: packets are copied as they are, nothing is coded again. The
 * damaged file is left as it is.
 * @param likePath a whole recording of the same program and settings, by which the packets of one are found that has lost its index
 * @throws {MediaError} when nothing of it can be read, the new file would lie over the old one, or the whole recording cannot serve
 */
export async function repairRecording(
  path: string,
  outPath: string,
  onProgress: (share: number) => void = () => {},
  likePath?: string,
): Promise<Repaired> {
  const name = basename(path);
  const info = await stat(path).catch(() => null);
  if (!info?.isFile()) throw new MediaError('unreadable', `There is no file ${name}. Check the path.`);
  if (info.size === 0) throw new MediaError('empty', `${name} is empty (0 bytes); there is nothing to save.`);
  if (likePath) await refuseOver(outPath, [likePath]);
  const file = await beginFile(outPath, path);
  let input: Input | null = null;
  let usable: TrackCopy[] = [];
  try {
    const rebuilt = likePath
      ? await rebuildIndex(path, likePath, (share) => onProgress(REBUILDING * share))
      : null;
    const onCopied = (share: number) => onProgress(rebuilt ? REBUILDING + (1 - REBUILDING) * share : share);
    const second = rebuilt ? null : await secondRecordingAt(path);
    input = await openInput(path, { lengthBytes: second ?? undefined, readAs: rebuilt?.readAs });
    const { copies, left } = await openCopies(input).catch((): TrackCopies => ({ copies: [], left: [] }));
    usable = copies;
    if (usable.length === 0) {
      await refuseUnreadable(path);
      throw new MediaError(
        'unreadable',
        `Nothing of ${name} can be read: it is no recording, or it ends before its first packet.`,
      );
    }
    refuseUnfit(file, usable, outPath);
    for (const copy of usable) {
      await copy.repair();
      await copy.addTo(file.writer);
    }
    await file.writer.start();
    beginTogether([usable], isIndexed(outPath));
    const lengthS = Math.max(0.001, ...(await Promise.all(usable.map(promisedS))).map((one) => one ?? 0));
    await copyAll(usable, (atS) => onCopied(file.copiedShare * Math.min(1, Math.max(0, atS / lengthS))));
    await file.finish(onCopied);
    return {
      tracks: await Promise.all(usable.map(savedOf)),
      left: [
        ...left,
        ...(rebuilt?.left ?? []),
        ...(second === null ? [] : ['everything after the first recording, where another one begins']),
      ],
      notes: rebuilt?.notes ?? [],
    };
  } finally {
    for (const copy of usable) copy.close();
    input?.dispose();
    await file.drop();
  }
}

async function promisedS({ track }: TrackCopy): Promise<number | null> {
  const saidS = await track.getDurationFromMetadata().catch(() => null);
  // Ogg says so in its last page.
  if (saidS !== null || (await track.input.getFormat()) !== OGG) return saidS;
  return track.computeDuration().catch(() => null);
}

async function savedOf(copy: TrackCopy): Promise<RepairedTrack> {
  const { track, codec, name, packets, endS, laterS, brokeOff, lost } = copy;
  const kind = track.isAudioTrack() ? 'audio' : 'video';
  // Counted from where the recording begins: its clock may have run before that.
  const earlierS = Math.min(0, laterS);
  const saidS = await promisedS(copy);
  return {
    ...{ kind, codec, name, packets, brokeOff },
    savedS: endS + earlierS,
    promisedS: saidS === null ? null : Math.max(0, saidS + earlierS),
    lost: lost.map(({ fromS, toS }) => ({ fromS: fromS + earlierS, toS: toS + earlierS })),
  };
}
