import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { ExtractedTrack } from '../../core/deliver/records.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { dealtOut } from '../jobs/together.ts';
import { AudioFile } from '../media/audioFile.ts';
import { breakOffOfFile } from '../media/breakOff.ts';
import { MediaError } from '../media/mediaError.ts';
import { STEM_RATE } from '../media/stem.ts';
import { extractedName } from './extractTracks.ts';
import { losslessBytes, needRoom } from './needRoom.ts';
import { inNewFolder } from './newFolder.ts';
import type { FileMark } from './wavChunks.ts';

/** How tracks are written. */
export interface ExtractOptions {
  format?: 'wav' | 'flac';
  /** Which tracks, counted from zero; all when left out. */
  tracks?: number[];
  marks?: FileMark[];
}

/**
 * Writes tracks of a recording into files of their own, on all threads: see `extractTracks`. What is there already is not written over.
 * @throws {MediaError} where there is no such track or no room, or one does not decode
 */
export async function extractAll(
  runner: TaskRunner,
  path: string,
  folder: string,
  { format = 'wav', tracks: asked, marks = [] }: ExtractOptions = {},
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<ExtractedTrack[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const tracks = asked ?? file.tracks.map((_, track) => track);
  const missing = tracks.find((track) => file.tracks[track] === undefined);
  if (missing !== undefined)
    throw new MediaError(
      'no-audio',
      `There is no audio track ${missing + 1}; the file has ${file.tracks.length}.`,
    );
  const names = tracks.map((track) => extractedName(file.tracks[track], format));
  return inNewFolder(folder, async () => {
    for (const name of names)
      if (await stat(join(folder, name)).catch(() => null))
        throw new MediaError(
          'unsupported',
          `${name} is there already. Choose an empty folder, or move it away.`,
        );
    const saidS = Math.max(0, ...tracks.map((track) => file.tracks[track].durationS));
    const breakOff = await breakOffOfFile(path);
    const lengthS = breakOff && breakOff.atS > 0 ? Math.min(saidS, breakOff.atS) : saidS;
    await needRoom(
      folder,
      tracks.reduce((sum, track) => sum + losslessBytes(file.tracks[track], lengthS, format), 0),
    );
    const frames = Math.ceil(lengthS * STEM_RATE);
    const extracting = dealtOut(
      tracks,
      (group, either, onShare) =>
        runner.run(
          'extractTracks',
          { path, folder, format, tracks: group, marks, frames },
          { signal: either, onProgress: onShare },
        ),
      signal,
      onProgress,
    );
    return extracting.catch(async (error) => {
      // Some may have been whole already: all of them, or none.
      await Promise.all(names.map((name) => rm(join(folder, name), { force: true })));
      throw error;
    });
  });
}
