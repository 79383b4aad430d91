import { rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { LeakInterval } from '../../core/check/verification.ts';
import type { RescueResult } from '../../core/deliver/records.ts';
import { downDb } from '../../core/rescue/subtract.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { allOrNone, meanOf } from '../jobs/together.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import { refuseOver } from '../media/keepOriginals.ts';
import type { Reference } from '../media/references.ts';
import { STEM_RATE } from '../media/stem.ts';
import { checkUpload } from './checkUpload.ts';
import { losslessBytes, needRoom } from './needRoom.ts';
import { OVERLAP_S, type Section, type Without, type WithoutRequest } from './writeWithout.ts';

/** A track that something is to be taken out of (counted from zero), and the sound of that alone. */
export interface RescueRequest {
  path: string;
  track: number;
  reference: Reference;
  outPath: string;
  /** Where what was taken out is written, to be heard; nowhere when left out. */
  takenPath?: string;
}

/** A sound is taken out of so much at a time (s). */
const SECTION_S = 24;
/** With fewer sections than this, a track is written in one go. */
const LEAST_SECTIONS = 4;
/** For a while, the parts of a track lie beside the whole of it. */
const FILES = 2;
/** A stretch may begin earlier and end later than it was heard (s): where the sound is not there, nothing is taken. */
const AROUND_S = 5;

/**
 * Takes a sound out of a track, wherever a check finds it, and checks what is left. Where it is not found, the track stays as it is.
 * @throws {MediaError} when a file does not decode, has no such track or one of more than two channels, or would be written over
 */
export async function rescueTrack(
  runner: TaskRunner,
  { path, track, reference, outPath, takenPath }: RescueRequest,
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<RescueResult> {
  for (const one of [outPath, ...(takenPath ? [takenPath] : [])])
    await refuseOver(one, [path, reference.path]);
  const asked = { ...reference, forbiddenIn: [track] };
  const { leaks } = await verifyRecording(runner, path, [asked], {
    onProgress: (share) => onProgress(0.3 * share),
    signal,
  });
  const sections = sectionsOf(leaks);
  const part = `${outPath}.part`;
  const takenPart = takenPath ? `${takenPath}.part` : null;
  try {
    await needRoom(dirname(outPath), (takenPath ? 2 : 1) * FILES * (await bytesOf(path, track)));
    const done = await writeAll(
      runner,
      { path, track, reference, sections, outPath: part, takenPath: takenPart },
      { onProgress: (share) => onProgress(0.3 + 0.4 * share), signal },
    );
    const { verdict, leaks: left } = await checkUpload(
      runner,
      { path, outPath: part, fromS: 0 },
      [reference],
      { onProgress: (share) => onProgress(0.7 + 0.3 * share), signal },
    );
    if (takenPath && takenPart) await rename(takenPart, takenPath);
    await rename(part, outPath);
    return {
      downDb: downDb(done.parts),
      isLossy: done.isLossy,
      intervals: leaks.map((leak) => ({
        startS: leak.startS,
        endS: leak.endS,
        levelDb: leak.levelDb,
        downDb: downDb(done.parts.filter((_, at) => sections[at].leak === leak)),
      })),
      parts: done.parts.map((one, at) => ({
        startS: sections[at].from / STEM_RATE,
        endS: Math.min(sections[at].to, done.frames) / STEM_RATE,
        levelDb: sections[at].leak.levelDb,
        downDb: downDb([one]),
      })),
      verdict,
      leaks: left,
    };
  } finally {
    for (const one of [part, takenPart]) if (one) await rm(one, { force: true });
  }
}

/** What is written of a track, and where. */
type Whole = Omit<WithoutRequest, 'fromFrame' | 'toFrame'>;

/** Writes a track without a sound: in two parts side by side, since that takes long, which are put together then. */
async function writeAll(
  runner: TaskRunner,
  whole: Whole,
  { onProgress = () => {}, signal }: RunOptions,
): Promise<Without> {
  const { sections, outPath, takenPath } = whole;
  if (sections.length < LEAST_SECTIONS)
    return runner.run('writeWithout', { ...whole, fromFrame: 0, toFrame: null }, { onProgress, signal });
  const second = Math.ceil(sections.length / 2);
  const split = sections[second].from;
  // Where sections overlap, the second part needs the end of the section before it as well.
  const again = sections[second - 1].to > split ? 1 : 0;
  const named = (path: string | null, part: number) => path && `${path}.${part}.part`;
  const requests = [
    { fromFrame: 0, toFrame: split, sections: sections.slice(0, second) },
    { fromFrame: split, toFrame: null, sections: sections.slice(second - again) },
  ].map((part, at) => ({
    ...whole,
    ...part,
    outPath: `${outPath}.${at}.part`,
    takenPath: named(takenPath, at),
  }));
  const shareOf = meanOf(requests.length, (share) => onProgress(0.9 * share));
  try {
    const [early, late] = await allOrNone(
      requests.map((request, at) => (either: AbortSignal) => {
        return runner.run('writeWithout', request, { onProgress: shareOf(at), signal: either });
      }),
      signal,
    );
    await runner.run(
      'joinParts',
      { paths: requests.map((one) => one.outPath), outPath },
      { onProgress: (share) => onProgress(0.9 + 0.1 * share), signal },
    );
    const taken = requests.flatMap((one) => one.takenPath ?? []);
    if (takenPath) await runner.run('joinParts', { paths: taken, outPath: takenPath }, { signal });
    return {
      parts: [...early.parts, ...late.parts.slice(again)],
      frames: early.frames + late.frames,
      isLossy: early.isLossy,
    };
  } finally {
    for (const one of requests.flatMap((request) => [request.outPath, request.takenPath ?? []]).flat())
      await rm(one, { force: true });
  }
}

async function bytesOf(path: string, track: number): Promise<number> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const info = file.tracks[track];
  return info ? losslessBytes(info, info.durationS) : 0;
}

function sectionsOf(leaks: LeakInterval[]): Section[] {
  const sections: Section[] = [];
  let free = 0;
  const inOrder = [...leaks].sort((a, b) => a.startS - b.startS);
  for (const [at, leak] of inOrder.entries()) {
    // The next one may lie otherwise in the track, as where a record was moved on.
    const nextS = inOrder[at + 1]?.startS ?? Number.POSITIVE_INFINITY;
    const untilS = Math.min(leak.endS + AROUND_S, Math.max(leak.endS, (leak.endS + nextS) / 2));
    const start = Math.max(free, Math.round((leak.startS - AROUND_S) * STEM_RATE), 0);
    const end = Math.round(untilS * STEM_RATE);
    const step = (SECTION_S - OVERLAP_S) * STEM_RATE;
    const count = Math.max(1, Math.ceil((end - start - OVERLAP_S * STEM_RATE) / step));
    for (let section = 0; section < count; section++) {
      const from = start + section * step;
      sections.push({ from, to: Math.min(end, from + SECTION_S * STEM_RATE), leak });
    }
    free = end;
  }
  return sections;
}
