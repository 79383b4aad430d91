import { beginFile, isIndexed, refuseUnfit } from '../media/containers.ts';
import { orDamaged } from '../media/mediaError.ts';
import { openInput } from '../media/openInput.ts';
import { refuseLostPicture } from '../media/trackCopies.ts';
import { beginTogether, copyAll, type TrackCopy } from '../media/trackCopy.ts';
import { copiesOf, refuseBroken } from './remux.ts';

/** A picture with its own sound, and files with a named track each that go with it. */
export interface JoinedRequest {
  path: string;
  tracks: string[];
  outPath: string;
}

/**
 * Writes a picture and its own sound as they are, packet by packet, and more tracks beside them, into one file.
 * @returns what of them was not copied, and why
 * @throws {MediaError} when it cannot be read, or the container cannot hold what is in it
 */
export function writeJoined(
  request: JoinedRequest,
  onProgress: (share: number) => void = () => {},
): Promise<string[]> {
  return orDamaged(request.path, () => write(request, onProgress));
}

async function write(
  { path, tracks, outPath }: JoinedRequest,
  onProgress: (share: number) => void,
): Promise<string[]> {
  const file = await beginFile(outPath, path);
  const inputs = await Promise.all([path, ...tracks].map((one) => openInput(one)));
  try {
    const files: TrackCopy[][] = [];
    const left: string[] = [];
    for (const input of inputs) {
      const { copies: usable, left: leftOfIt } = await copiesOf(input, path);
      left.push(...leftOfIt);
      // Players choose the picture’s own sound.
      for (const copy of usable) if (input !== inputs[0]) copy.isDefault = false;
      files.push(usable);
    }
    if (!files[0].some(({ track }) => track.isVideoTrack())) await refuseLostPicture(inputs[0], path);
    const copies = files.flat();
    refuseUnfit(file, copies, outPath);
    for (const copy of copies) await copy.addTo(file.writer);
    await file.writer.start();
    beginTogether(files, isIndexed(outPath));
    const lengthS = Math.max(0.001, await inputs[0].computeDuration());
    await copyAll(copies, (atS) => onProgress(file.copiedShare * Math.min(1, Math.max(0, atS / lengthS))));
    refuseBroken(copies, path);
    await file.finish(onProgress);
    return left;
  } finally {
    for (const input of inputs) input.dispose();
    await file.drop();
  }
}
