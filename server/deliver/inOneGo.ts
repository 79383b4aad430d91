import { basename, join } from 'node:path';
import type { MadeFindings, MadeHandoff, MadeUpload, UploadOrder } from '../../core/deliver/records.ts';
import { fileName } from '../fileName.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import type { Forbidden, TrackFindings } from './checkTracks.ts';
import { makeHandoff } from './makeHandoff.ts';
import { makeUpload } from './makeUpload.ts';
import { inNewFolder } from './newFolder.ts';
import { type SourceFindings, sourceFindings, type UploadSource } from './sources.ts';
import type { UploadTrack } from './uploadAudio.ts';

/** What of an upload is mixed, and what is known of it. */
export interface UploadPart {
  track: UploadTrack;
  source: UploadSource;
}

/** What is made of one recording at once. */
export interface GoRequest {
  path: string;
  /** How the recording is called. */
  name: string;
  folder: string;
  forbidden: Forbidden;
  /** What is known of all tracks that are used. */
  findings: TrackFindings;
  videos: { order: Omit<UploadOrder, 'tracks'>; parts: UploadPart[] } | null;
  /** The tracks (counted from zero) that were looked through for the editor, and how tracks are written. */
  handoff: { tracks: number[]; format: 'wav' | 'flac' } | null;
  marks: { atS: number; endS: number | null; name: string }[];
  /** `YYYY-MM-DD`. */
  today: string;
}

/** What was made of it. */
export interface MadeInOneGo {
  uploads: MadeUpload[];
  handoff: (MadeHandoff & MadeFindings) | null;
}

/** Where there are videos, what the editor gets lies in a folder of its own beside them. */
const EDITOR_FOLDER = 'editor';

/** The folder that what the editor gets lies in. */
export function editorFolder(folder: string, hasVideos: boolean): string {
  return hasVideos ? join(folder, EDITOR_FOLDER) : folder;
}

/**
 * Makes videos for uploads, what an editor needs, or both, into one folder.
 * @param onProgress is told what is being done, and how much of all is done (0 to 1)
 * @throws {MediaError} as `makeUpload` and `makeHandoff` do
 */
export async function makeInOneGo(
  runner: TaskRunner,
  request: GoRequest,
  onProgress: (phase: string, share: number) => void = () => {},
  { signal }: Pick<RunOptions, 'signal'> = {},
): Promise<MadeInOneGo> {
  const { path, name, folder, forbidden, findings, videos, handoff, marks, today } = request;
  const pieces = videos?.order.pieces ?? [];
  const steps = pieces.length + (handoff ? 1 : 0);
  const phase = (named: string, done: number) => ({
    signal,
    onProgress: (share: number) => onProgress(named, (done + share) / steps),
  });
  const uploads: MadeUpload[] = [];
  const known = sourceFindings(
    (videos?.parts ?? []).map(({ source }) => source),
    forbidden.sounds,
    findings,
  );
  return inNewFolder(folder, async () => {
    if (videos)
      for (const [at, piece] of pieces.entries()) {
        const named = pieces.length > 1 ? `Video ${at + 1} of ${pieces.length}: ${piece.name}` : 'The video';
        uploads.push(await makePiece(runner, request, videos, piece, uploads, known, phase(named, at)));
      }
    const made = handoff
      ? await makeHandoff(
          runner,
          handoff.tracks,
          {
            ...{ path, name, forbidden, findings, marks, today },
            folder: editorFolder(folder, pieces.length > 0),
            format: handoff.format,
          },
          phase('Tracks and timeline', pieces.length),
        )
      : null;
    return { uploads, handoff: made };
  });
}

async function makePiece(
  runner: TaskRunner,
  { path, name: recording, folder, forbidden, today }: GoRequest,
  { order, parts }: NonNullable<GoRequest['videos']>,
  { name, fromS, untilS }: UploadOrder['pieces'][number],
  made: MadeUpload[],
  known: SourceFindings,
  options: RunOptions,
): Promise<MadeUpload> {
  const { targetLufs, ceilingDbtp, fadeS, evenIf, container } = order;
  const file = `${numbered(fileName(name), made)}.${container}`;
  const { isWritten, proof, ...outcome } = await makeUpload(
    runner,
    {
      upload: {
        path,
        outPath: join(folder, file),
        tracks: parts.map(({ track }) => track),
        ...{ targetLufs, ceilingDbtp, fadeS },
        fromS: fromS > 0 ? fromS : undefined,
        untilS: untilS ?? undefined,
      },
      ...{ forbidden, evenIf, recording, today },
      sources: async () => known,
    },
    options,
  );
  return {
    ...outcome,
    piece: name,
    file: isWritten ? file : null,
    proof: proof && `${basename(file)}.proof.html`,
  };
}

/** Two pieces of one name get different files. */
function numbered(name: string, made: MadeUpload[]): string {
  const isTaken = (one: string) =>
    made.some(
      ({ piece, file }) =>
        (file ?? fileName(piece)).replace(/\.[^.]+$/, '').toLowerCase() === one.toLowerCase(),
    );
  for (let number = 1; ; number++) {
    const tried = number === 1 ? name : `${name} ${number}`;
    if (!isTaken(tried)) return tried;
  }
}
