import { basename, join as pathIn } from 'node:path';
import { restrictedFor } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import type { MadeUpload, UploadOrder } from '../../../core/deliver/records.ts';
import { dayOf } from '../../../core/setup/day.ts';
import { allSources, checkSources, type Forbidden, type SourceFindings } from '../../deliver/checkSources.ts';
import { makeHandoff } from '../../deliver/makeHandoff.ts';
import { makeUpload } from '../../deliver/makeUpload.ts';
import type { UploadTrack } from '../../deliver/uploadAudio.ts';
import { fileName } from '../../fileName.ts';
import { HttpError } from '../../httpError.ts';
import { plannedReferences } from '../../media/plannedReferences.ts';
import type { Reference } from '../../media/references.ts';
import type { RunOptions } from '../runner.ts';
import type { Made, MakingContext, RequestFor } from './making.ts';

/** Makes videos, and what the editor gets. */
export async function makeFiles(
  context: MakingContext,
  path: string,
  { check, order: { upload, handoff }, folder, signal, onProgress }: RequestFor<'files'>,
): Promise<Made> {
  const forbidden = await forbiddenIn(context, check, path);
  const today = dayOf(new Date());
  const videos = upload?.pieces.length ?? 0;
  const steps = 1 + videos + (handoff ? 1 : 0);
  const phase = (name: string, done: number) => (share: number) => onProgress(name, (done + share) / steps);
  const uploads: MadeUpload[] = [];
  const sources = upload
    ? await sourcesOf(
        context,
        { path, tracks: upload.tracks, forbidden },
        {
          signal,
          onProgress: phase('Checking what it is made of', 0),
        },
      )
    : allSources([]);
  for (const [at, { name, fromS, untilS }] of (upload?.pieces ?? []).entries()) {
    const order = upload as UploadOrder;
    const file = `${numbered(fileName(name), uploads)}.${order.container}`;
    const { isWritten, proof, ...made } = await makeUpload(
      context.runner,
      {
        upload: {
          path,
          outPath: pathIn(folder, file),
          tracks: order.tracks.map((one) => ingredient(context, check.id, one)),
          targetLufs: order.targetLufs,
          ceilingDbtp: order.ceilingDbtp,
          fromS: fromS > 0 ? fromS : undefined,
          untilS: untilS ?? undefined,
          fadeS: order.fadeS,
        },
        forbidden,
        sources,
        evenIf: order.evenIf,
        recording: check.name,
        today,
      },
      {
        signal,
        onProgress: phase(videos > 1 ? `Video ${at + 1} of ${videos}: ${name}` : 'The video', 1 + at),
      },
    );
    uploads.push({
      ...made,
      piece: name,
      file: isWritten ? file : null,
      proof: proof && `${basename(file)}.proof.html`,
    });
  }
  const handed = handoff
    ? await makeHandoff(
        context.runner,
        {
          path,
          name: check.name,
          folder: videos > 0 ? pathIn(folder, 'editor') : folder,
          format: handoff,
          forbidden,
          marks: context.marks.list(check.id),
          today,
        },
        { signal, onProgress: phase('Tracks and timeline', 1 + videos) },
      )
    : null;
  const refused = uploads.filter(({ file }) => file === null);
  return {
    result: { kind: 'files', uploads, handoff: handed },
    message:
      refused.length === 0
        ? null
        : `Not written, because ${refused.length === 1 ? 'it is' : 'they are'} ${[...new Set(refused.map(({ verdict }) => verdict))].join(' or ')}: ${refused.map(({ piece }) => piece).join(', ')}.`,
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

/** What must not be in the tracks that an upload is made of; of a rescued one, what was left in it. */
async function sourcesOf(
  context: MakingContext,
  { path, tracks, forbidden }: { path: string; tracks: UploadOrder['tracks']; forbidden: Forbidden },
  options: RunOptions,
): Promise<SourceFindings> {
  const plain = tracks.flatMap(({ track, rescueId }) => (rescueId === null ? [track] : []));
  const found = [await checkSources(context.runner, path, plain, forbidden, options)];
  for (const { track, rescueId } of tracks) {
    const result = rescueId === null ? null : context.deliveries.get(rescueId).result;
    if (result?.kind !== 'rescue') continue;
    // What was taken out was looked for once more; all else is as it is in the track itself.
    const others = forbidden.sounds.filter(({ name }) => name !== result.sound);
    const known = await checkSources(
      context.runner,
      path,
      [track],
      { sounds: others },
      { signal: options.signal },
    );
    found.push({ ...known, leaks: [...known.leaks, ...result.rescue.leaks] });
  }
  return allSources(found);
}

/** The track of the recording, or what a rescue made of it. */
function ingredient(
  { deliveries }: MakingContext,
  checkId: string,
  { track, rescueId, gainDb }: UploadOrder['tracks'][number],
): UploadTrack {
  if (rescueId === null) return { track, gainDb };
  const { result, folder, checkId: of } = deliveries.get(rescueId);
  if (of !== checkId || result?.kind !== 'rescue')
    throw new HttpError(422, 'no-rescue', 'The rescued track is not there any more. Choose another one.');
  return { track: 0, gainDb, path: pathIn(folder, result.file) };
}

/** What must not be in an upload of a recording, by its plan. */
async function forbiddenIn(context: MakingContext, { plan }: Check, path: string): Promise<Forbidden> {
  if (!plan) return { sounds: [], unknown: [] };
  const sounds: Reference[] = await plannedReferences(restrictedFor('upload', plan, []), context);
  return {
    sounds: sounds.map((sound) => ({ ...sound, path: sound.path === path ? null : sound.path })),
    unknown: plan.unknown.flatMap(({ name, notFor }) => (notFor.includes('upload') ? [name] : [])),
  };
}
