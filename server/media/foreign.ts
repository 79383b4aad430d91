import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import { FileBytes } from './fileBytes.ts';
import { type KnownFile, knownFileAt } from './knownFile.ts';
import { MediaError } from './mediaError.ts';
import { refuseUnfinished } from './unfinished.ts';

/** Kinds of files that are read here, by FFmpeg's names: what is wrong with one of these is something else than its kind. */
const READ = ['wav', 'flac', 'mp3', 'aac', 'matroska,webm', 'mov,mp4,m4a,3gp,3g2,mj2'];
/** Of these, only what holds sound in some codecs is read. */
const READ_IN_PART: Record<string, string[]> = {
  ogg: ['opus', 'vorbis'],
  mpegts: ['aac', 'mp3', 'ac3', 'eac3'],
};
/** What a program stream of MPEG begins with (ISO/IEC 13818-1, 2.5.3.4). */
const PACK_HEAD = Buffer.of(0, 0, 1, 0xba);

/** Says more of a file that could not be opened. @throws {MediaError} where it was never finished, or is of a kind that is not read here */
export async function refuseUnreadable(path: string): Promise<void> {
  await refuseUnfinished(path);
  const file = await knownFileAt(path);
  const sound = file?.streams.find(({ kind, parameters }) => kind === 'audio' && parameters.sampleRate > 0);
  if (!file || !sound || READ.includes(file.kind)) return;
  const codecs = READ_IN_PART[file.kind];
  if (!codecs) throw notRead(path, file);
  if (codecs.includes(sound.codec)) return;
  throw new MediaError(
    'unsupported',
    `The sound of ${basename(path)} is coded as “${sound.codec}”, which cannot be read from this kind of file (${file.kindName}). ${INSTEAD}`,
  );
}

/** @throws {MediaError} where a file is of a kind that the media library would take for another */
export async function refuseMistaken(path: string): Promise<void> {
  const handle = await open(path);
  try {
    const head = await new FileBytes(handle, (await handle.stat()).size).at(0, PACK_HEAD.length);
    // It would be read as MP3, headers and all, where its sound is of that kind.
    if (head.equals(PACK_HEAD)) throw notRead(path, { kindName: 'MPEG program stream' });
  } finally {
    await handle.close();
  }
}

const INSTEAD = 'Save it as MKV or MP4 instead, or export its sound as WAV or FLAC.';

function notRead(path: string, { kindName }: Pick<KnownFile, 'kindName'>): MediaError {
  return new MediaError(
    'unsupported',
    `${basename(path)} is a kind of file that cannot be read here: ${kindName}. ${INSTEAD}`,
  );
}
