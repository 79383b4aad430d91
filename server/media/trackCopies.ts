import { basename } from 'node:path';
import type { Input, InputTrack } from 'mediabunny';
import { listed } from '../../core/words/figures.ts';
import { hasChapters } from './matroskaHead.ts';
import { MediaError } from './mediaError.ts';
import { pathOf } from './openInput.ts';
import { codecOf, knownFileOf, unlistedIn } from './trackCodec.ts';
import { TrackCopy } from './trackCopy.ts';

/** The tracks of a file that can be copied, and the others, each by what it is and why it is not copied. */
export interface TrackCopies {
  copies: TrackCopy[];
  left: string[];
}

/** Opens all tracks of a file for copying. @throws where what the file holds cannot be read at all */
export async function openCopies(input: Input): Promise<TrackCopies> {
  const tracks = await input.getTracks();
  const opened = await Promise.all(tracks.map((track) => TrackCopy.open(track)));
  const left = await Promise.all(
    tracks.filter((track, at) => !opened[at] && (track.isAudioTrack() || track.isVideoTrack())).map(leftOut),
  );
  const [unlisted, others] = [await unlistedIn(input), await othersIn(input)];
  return {
    copies: opened.filter((copy) => copy !== null),
    left: [
      ...left,
      ...unlisted.map(
        ({ kind, codec }) => `${kind} (${codec}), because it cannot be read from this kind of file`,
      ),
      ...(others.length > 0 ? [`${listed(others)}, because a copy holds sound and picture only`] : []),
    ],
  };
}

/** What is in a file beside sound and picture, each kind once. */
async function othersIn(input: Input): Promise<string[]> {
  const others = (await knownFileOf(input))?.others ?? [];
  const path = pathOf(input);
  return [...new Set([...others, ...(path && (await hasChapters(path)) ? ['chapters'] : [])])];
}

async function leftOut(track: InputTrack): Promise<string> {
  const { codec } = await codecOf(track).catch(() => ({ codec: 'unknown codec' }));
  const what = track.isAudioTrack() ? 'sound' : 'picture';
  return `${track.type} track ${track.number} (${codec}), because its ${what} cannot be read`;
}

/** @throws {MediaError} where a file whose picture could not be opened for copying has one all the same: nothing is made without it in silence */
export async function refuseLostPicture(input: Input, path: string): Promise<void> {
  const name = basename(path);
  const [unlisted] = (await unlistedIn(input)).filter(({ kind }) => kind === 'video');
  if (unlisted)
    throw new MediaError(
      'unsupported',
      `The picture of ${name} (${unlisted.codec}) cannot be read from this kind of file. Save the recording as .mkv or .mp4 first.`,
    );
  const video = await input.getPrimaryVideoTrack();
  if (!video) return;
  const { codec, isKnown } = await codecOf(video);
  throw new MediaError(
    isKnown ? 'broken' : 'unsupported',
    isKnown
      ? `The picture of ${name} (${codec}) is damaged: not even its beginning can be read. Export or copy it again.`
      : `The picture of ${name} is coded as “${codec}”, which is not known here. Export it with its picture as H.264, HEVC, VP9 or AV1.`,
  );
}
