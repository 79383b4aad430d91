import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { EncodedPacketSink, type Input } from 'mediabunny';
import type { MadeVideo } from '../../core/deliver/records.ts';
import { beginFile, isIndexed, refuseUnfit, type WrittenFile } from '../media/containers.ts';
import { refuseUnreadable } from '../media/foreign.ts';
import { MediaError, orDamaged } from '../media/mediaError.ts';
import { beginningOf, openInput } from '../media/openInput.ts';
import { refuseLostPicture } from '../media/trackCopies.ts';
import { copyAll, TrackCopy } from '../media/trackCopy.ts';
import { refuseBroken } from './remux.ts';
import { type UploadTrack, writeUploadAudio } from './uploadAudio.ts';

/** A video that is to be uploaded. */
export interface UploadRequest {
  path: string;
  /** Where it is written: .mp4 or .mkv. */
  outPath: string;
  tracks: UploadTrack[];
  targetLufs: number;
  ceilingDbtp: number;
  /** Which stretch of the recording (s); all of it when left out. */
  fromS?: number;
  untilS?: number;
  /** How long the sound fades at both ends (s). */
  fadeS?: number;
}

/** Making the sound takes this share of the work. */
const SOUND_SHARE = 0.8;
/** Where a stretch is cut out of the sound, it fades so long (s), so that it does not click. */
const CUT_FADE_S = 0.02;
/** The coder’s first frame comes before the sound that it codes (AAC; ISO/IEC 14496-3), so it lies so far before the start (s). */
const PRIMING_S = 1024 / 48_000;

/**
 * Writes a video for an upload: the picture as it is, packet by packet, and a new sound of the tracks that were chosen. The picture can begin at
 * a key frame only, so that a stretch begins at the last one before it.
 * @throws {MediaError} when the recording or its picture cannot be read, nothing sounds, or the container cannot hold the picture
 */
export async function writeUpload(
  request: UploadRequest,
  onProgress: (share: number) => void = () => {},
): Promise<MadeVideo> {
  const { path, outPath, tracks, targetLufs, ceilingDbtp } = request;
  const file = await beginFile(outPath, path);
  const input = await openInput(path);
  const soundPath = `${outPath}.sound.part`;
  const onMuxed = (share: number) => onProgress(SOUND_SHARE + (1 - SOUND_SHARE) * share);
  try {
    const cut = await orDamaged(path, () => cutOf(input, request));
    const picture = cut.picture;
    if (picture) refuseUnfit(file, [picture], outPath);
    else await refuseLostPicture(input, path);
    const fadeS = request.fadeS ?? (request.fromS || request.untilS ? CUT_FADE_S : 0);
    const audio = await writeUploadAudio(
      { path, tracks, fromS: cut.fromS, lengthS: cut.lengthS, fadeS, targetLufs, ceilingDbtp },
      soundPath,
      (share) => onProgress(SOUND_SHARE * share),
    );
    await orDamaged(path, () =>
      mux(file, { picture, soundPath, outPath, laterS: -cut.fromS - cut.fileStartS }, (atS) =>
        onMuxed(file.copiedShare * Math.min(1, Math.max(0, (atS - cut.fromS) / cut.lengthS))),
      ),
    );
    if (picture) refuseBroken([picture], path);
    await file.finish(onMuxed);
    return { ...audio, fromS: cut.fromS, lengthS: cut.lengthS, hasPicture: picture !== null };
  } finally {
    input.dispose();
    await file.drop();
    await rm(soundPath, { force: true });
  }
}

/** The stretch as it can be cut, its picture, and when the file’s own time begins (s). */
interface UploadCut {
  fromS: number;
  lengthS: number;
  fileStartS: number;
  picture: TrackCopy | null;
}

async function cutOf(input: Input, { path, fromS = 0, untilS }: UploadRequest): Promise<UploadCut> {
  const name = basename(path);
  const video = await input.getPrimaryVideoTrack().catch(async () => {
    await refuseUnreadable(path);
    throw new MediaError(
      'unreadable',
      `${name} cannot be read as a recording. Check the file, or repair it first.`,
    );
  });
  const fileStartS = await beginningOf(input);
  const endS = (await input.computeDuration()) - fileStartS;
  const until = Math.min(untilS ?? endS, endS);
  if (fromS >= until)
    throw new MediaError(
      'unsupported',
      `The stretch from ${fromS} s to ${until.toFixed(1)} s is empty: ${name} lasts ${endS.toFixed(1)} s.`,
    );
  if (!video) return { fromS, lengthS: until - fromS, fileStartS, picture: null };
  const key = fromS > 0 ? await new EncodedPacketSink(video).getKeyPacket(fromS + fileStartS) : null;
  const beginsS = key ? Math.max(0, key.timestamp - fileStartS) : 0;
  const picture = await TrackCopy.open(video, {
    fromS: fromS > 0 ? fromS + fileStartS : 0,
    untilS: untilS === undefined ? Number.POSITIVE_INFINITY : until + fileStartS,
  });
  return { fromS: beginsS, lengthS: until - beginsS, fileStartS, picture };
}

/** Puts picture and sound together. */
async function mux(
  { writer }: WrittenFile,
  {
    picture,
    soundPath,
    outPath,
    laterS,
  }: { picture: TrackCopy | null; soundPath: string; outPath: string; laterS: number },
  onPacket: (atS: number) => void,
): Promise<void> {
  const coded = await openInput(soundPath);
  try {
    const track = await coded.getPrimaryAudioTrack();
    const sound = track && (await TrackCopy.open(track));
    if (!sound) throw new Error('the sound that was just coded cannot be read');
    if (picture) {
      picture.laterS = laterS;
      await picture.addTo(writer);
    }
    await sound.addTo(writer);
    // MP4 says that it begins before the start; elsewhere the frame that holds nothing yet is left out.
    if (!isIndexed(outPath)) await sound.leaveOut();
    sound.laterS = -PRIMING_S;
    await writer.start();
    await copyAll(picture ? [picture, sound] : [sound], onPacket);
  } finally {
    coded.dispose();
  }
}
