import { rm, stat } from 'node:fs/promises';
import { basename, dirname, extname } from 'node:path';
import type { JoinedFile, JoinResult } from '../../core/deliver/records.ts';
import { type ClockLine, clockLine } from '../../core/join/clockLine.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import { refuseOver } from '../media/keepOriginals.ts';
import { MediaError } from '../media/mediaError.ts';
import { losslessBytes, needRoom } from './needRoom.ts';

/** A picture, and recordings that were made beside it. */
export interface JoinRequest {
  /** The recording with the picture, and which of its tracks the others are found in (counted from zero). */
  path: string;
  track: number;
  others: { path: string; name: string }[];
  outPath: string;
}

/** What is known of a recording that is to be joined. */
interface Other {
  path: string;
  name: string;
  file: AudioFile;
  line: ClockLine;
}

/** A clock runs evenly where all that was heard lies this near to one line (s). */
const NEAR_S = 0.002;

/**
 * Finds recordings in the sound of a picture, lays them where they are heard there with their clocks’ drift taken out, and writes all of it
 * into one file: the picture and its own sound as they are, each other track without loss, under its name.
 * @throws {MediaError} when one of them is not heard in the picture’s sound, or does not decode
 */
export async function joinRecordings(
  runner: TaskRunner,
  { path, track, others, outPath }: JoinRequest,
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<JoinResult> {
  await refuseOver(outPath, [path, ...others.map((one) => one.path)]);
  const picture = await AudioFile.open(path, { allowCut: true });
  picture.close();
  const info = picture.tracks[track];
  if (!info)
    throw new MediaError(
      'no-audio',
      `There is no audio track ${track + 1} in ${basename(path)}; it has ${picture.tracks.length}.`,
    );
  const lengthS = info.durationS;
  const found: Other[] = [];
  const aligned: { path: string; name: string }[] = [];
  try {
    for (const [at, other] of others.entries()) {
      const shareOf = (share: number) => onProgress((0.5 * (at + share)) / others.length);
      found.push(await placeOf(runner, { path, track }, other, outPath, { onProgress: shareOf, signal }));
    }
    const count = found.reduce((sum, { file }) => sum + file.tracks.length, 0);
    // Each track is written beside first, then into the file.
    const tracksBytes = found.flatMap(({ file }) =>
      file.tracks.map((one) => 2 * losslessBytes(one, lengthS, 'flac')),
    );
    await needRoom(
      dirname(outPath),
      tracksBytes.reduce((sum, one) => sum + one, (await stat(path)).size),
    );
    for (const { path: from, name, file, line } of found)
      for (const { index, name: title } of file.tracks) {
        const beside = `${outPath}.${aligned.length + 1}.part`;
        aligned.push({ path: beside, name: title || nameOf(name, index, file.tracks.length) });
        await runner.run(
          'alignTrack',
          {
            path: from,
            track: index,
            name: aligned[aligned.length - 1].name,
            line,
            lengthS,
            outPath: beside,
          },
          { onProgress: (share) => onProgress(0.5 + (0.3 * (aligned.length - 1 + share)) / count), signal },
        );
      }
    const left = await runner.run(
      'writeJoined',
      { path, tracks: aligned.map((one) => one.path), outPath },
      { onProgress: (share) => onProgress(0.8 + 0.1 * share), signal },
    );
    const joined = found.map(
      (one): JoinedFile => ({
        file: one.name,
        offsetMs: one.line.offsetS * 1000,
        driftPpm: one.line.driftPpm,
        confidence: confidenceOf(one.line),
        heardS: one.line.heardS,
        offMs: one.line.offS * 1000,
        isSteady: one.line.offS <= NEAR_S,
      }),
    );
    onProgress(1);
    return { joined, tracks: aligned.map(({ name }) => name), left };
  } finally {
    await Promise.all(aligned.map((one) => rm(one.path, { force: true })));
  }
}

/** Finds a recording in the picture’s sound, by the first of its tracks that is heard there. */
async function placeOf(
  runner: TaskRunner,
  picture: { path: string; track: number },
  { path, name }: { path: string; name: string },
  outPath: string,
  { onProgress = () => {}, signal }: RunOptions,
): Promise<Other> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const beside = `${outPath}.alone.part`;
  try {
    for (const { index, durationS } of file.tracks) {
      const shareOf = (share: number) => onProgress((index + share) / file.tracks.length);
      // References are read from the first track of a file: another one is written beside first.
      if (index > 0)
        await runner.run(
          'writeStretch',
          { path, track: index, fromS: 0, lengthS: durationS, outPath: beside },
          { signal },
        );
      const reference = { name, track: null, path: index > 0 ? beside : path, forbiddenIn: [picture.track] };
      const { leaks } = await verifyRecording(runner, picture.path, [reference], {
        onProgress: shareOf,
        signal,
      });
      const line = clockLine(leaks);
      if (line) return { path, name, file, line };
    }
  } finally {
    await rm(beside, { force: true });
  }
  throw new MediaError(
    'unsupported',
    `${name} is not heard in the sound of ${basename(picture.path)}, so nobody can say where it belongs. Leave it out, or choose the track that it is heard in.`,
  );
}

function nameOf(file: string, index: number, count: number): string {
  const name = file.slice(0, file.length - extname(file).length);
  return count === 1 ? name : `${name} ${index + 1}`;
}

/** How sure it is: the longer both were heard together on one line, the surer (0 to 1). */
function confidenceOf({ heardS, offS }: ClockLine): number {
  const long = 1 - Math.exp(-heardS / 10);
  return Math.round(1000 * long * Math.min(1, NEAR_S / Math.max(offS, NEAR_S))) / 1000;
}
